/** How near parts come to their brand colours, as the render host finds it. */
import { useCallback, useMemo } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { useAnswer } from "../store/useAnswer";

export interface Fidelity {
  /** CIEDE2000 of half of the pixels in this light with this look; null where too little is seen. */
  typical: number | null;
  worst: number | null;
  /** In even light. */
  even: number | null;
  later: boolean;
  problem: string;
}

/** Something else was wanted meanwhile: asked again so often, after so long. */
const [TRIES, AGAIN_MS] = [8, 300];

export function useFidelity(brand: string): Fidelity | null {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const samples = useSlice((s) => s.panes[SHOT]?.status?.samples ?? 0);
  // As the picture becomes clean its colours do: asked again when the samples have doubled.
  const stage = Math.floor(Math.log2(samples + 1));
  const shown = useMemo(() => ({ scene, stage, brand }), [scene, stage, brand]);
  const ask = useCallback(
    async (now: { brand: string }) => {
      for (let tries = 0; tries < TRIES; tries++) {
        const found = await workspace.askHost<Fidelity>("fidelity", SHOT, { brand: now.brand });
        if (!found?.later) return found;
        await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
      }
      return null;
    },
    [workspace],
  );
  return useAnswer(shown, ask);
}

/** What a difference means, as the trade says it. */
export function said(delta: number): string {
  if (delta < 1) return "not seen";
  if (delta < 2) return "seen side by side";
  if (delta < 5) return "seen at a glance";
  return "another colour";
}
