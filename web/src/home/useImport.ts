/** Bringing an asset in, with its progress, until its project is there. */
import { useCallback, useRef, useState } from "react";
import { Canceled } from "../api/client";
import { bringIn, type Progress } from "../api/uploads";

export interface Bringing extends Progress {
  file: string;
}

/** `start` is the set-up with which the project begins; without it the person’s default. */
export function useImport(onDone: (project: number) => void, start?: number) {
  const [bringing, setBringing] = useState<Bringing | null>(null);
  const [problem, setProblem] = useState("");
  const stop = useRef<AbortController | null>(null);

  const bring = useCallback(
    async (file: File) => {
      setProblem("");
      setBringing({ file: file.name, stage: "Uploading", share: 0 });
      stop.current = new AbortController();
      try {
        const follow = (progress: Progress) => setBringing({ file: file.name, ...progress });
        onDone(await bringIn("asset", file, follow, stop.current.signal, start));
      } catch (error) {
        if (!(error instanceof Canceled)) setProblem((error as Error).message);
      }
      setBringing(null);
    },
    [onDone, start],
  );

  return { bringing, problem, bring, cancel: () => stop.current?.abort() };
}
