/** How much of the light in the picture each light group brings, asked again as the picture grows finer. */
import { useEffect, useState } from "react";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

export interface GroupShare {
  group: string;
  share: number;
}

interface Answer {
  shares: GroupShare[] | null;
  bytes: number;
}

const NOTHING: Answer = { shares: null, bytes: 0 };
const REST_MS = 250;

export function useShares(isWanted: boolean): Answer {
  const workspace = useWorkspace();
  const [found, setFound] = useState<Answer>(NOTHING);
  // Doublings of the samples, and edits: what is known then is worth asking for.
  const doubling = useSlice((s) => Math.floor(Math.log2(Math.max(s.panes[SHOT]?.status?.samples ?? 0, 1))));
  const revision = useSlice((s) => s.scene);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is asked again when these change
  useEffect(() => {
    if (!isWanted) return;
    let isOver = false;
    const rest = setTimeout(async () => {
      const answer = await workspace.askLight<Answer>("light_shares", SHOT);
      if (!isOver && answer?.shares) setFound(answer);
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, isWanted, doubling, revision]);
  return found;
}
