/** What places with a track are like at the moment that is shown, for their controls: asked of the host. */
import { useCallback, useEffect, useMemo } from "react";
import type { Motion } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { useAnswer } from "../store/useAnswer";
import { tracksOf } from "./recorded";

interface Values {
  values: Record<string, unknown>;
}

export function useMoved() {
  const workspace = useWorkspace();
  const time = useScene((s) => s.shutter.time);
  // A key that is in the hand is shown by whoever holds it.
  const moves = useSlice((s) => s.committed.motion.moves);
  const shown = useMemo(() => ({ time, moves }), [time, moves]);
  const ask = useCallback(
    async ({ moves }: { moves: Motion["moves"] }): Promise<Values | null> =>
      tracksOf(moves).size === 0 ? { values: {} } : workspace.askHost("keyed_values", SHOT, {}),
    [workspace],
  );
  const answer = useAnswer(shown, ask);
  useEffect(() => {
    if (answer) workspace.takeMoved(answer.values);
  }, [workspace, answer]);
}
