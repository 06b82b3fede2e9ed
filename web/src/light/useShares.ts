/** How much of the light in the picture each light group brings, asked again as the picture grows finer. */
import { useEffect, useState } from "react";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

export interface GroupShare {
  group: string;
  share: number;
}

/** Null before the picture has samples; and the memory [bytes] that telling groups apart takes. */
export interface Shares {
  shares: GroupShare[] | null;
  bytes: number;
}

const NOTHING: Shares = { shares: null, bytes: 0 };
const REST_MS = 250;

export function useShares(): Shares {
  const workspace = useWorkspace();
  const [found, setFound] = useState<Shares>(NOTHING);
  // Doublings of the samples, and edits: what is known then is worth asking for.
  const doubling = useSlice((s) => Math.floor(Math.log2(Math.max(s.panes[SHOT]?.status?.samples ?? 0, 1))));
  const revision = useSlice((s) => s.revision);
  const asked = `${revision} ${doubling}`;
  const [answered, setAnswered] = useState("");
  useEffect(() => {
    if (asked === answered) return;
    let isOver = false;
    const rest = setTimeout(async () => {
      const answer = await workspace.askHost<Shares>("light_shares", SHOT);
      if (isOver) return;
      setAnswered(asked);
      if (answer?.shares) setFound(answer);
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, asked, answered]);
  return found;
}
