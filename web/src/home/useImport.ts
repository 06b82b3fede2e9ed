/** Bringing a file in: upload with progress, then the import's own progress, then the new project. */
import { useCallback, useState } from "react";
import { api } from "../api/client";

const POLL_MS = 200;

export interface Bringing {
  file: string;
  stage: string;
  share: number;
}

export function useImport(onDone: (project: number) => void) {
  const [bringing, setBringing] = useState<Bringing | null>(null);
  const [problem, setProblem] = useState("");

  const bring = useCallback(
    async (file: File) => {
      setProblem("");
      setBringing({ file: file.name, stage: "Uploading", share: 0 });
      try {
        let state = await api.importAsset(file, (share) =>
          setBringing({ file: file.name, stage: "Uploading", share }),
        );
        while (state.state === "running") {
          setBringing({ file: file.name, stage: state.stage, share: state.share });
          await new Promise((resolve) => setTimeout(resolve, POLL_MS));
          state = await api.importState(state.id);
        }
        if (state.state === "failed" || !state.project_id) throw new Error(state.error);
        onDone(state.project_id);
      } catch (error) {
        setProblem((error as Error).message);
      }
      setBringing(null);
    },
    [onDone],
  );

  return { bringing, problem, bring };
}
