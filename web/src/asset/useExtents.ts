/** The box around all that is visible [m], asked again when parts or their asset change; null until it is known. */
import { useCallback, useMemo } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { useAnswer } from "../store/useAnswer";

export type Extents = [number, number, number];

export function useExtents(): Extents | null {
  const workspace = useWorkspace();
  const parts = useScene((s) => s.parts);
  const asset = useScene((s) => s.asset);
  const host = useSlice((s) => s.host);
  // What the answer depends on: where the parts are, and that the host is there to say it.
  const shown = useMemo(() => ({ parts, asset, host }), [parts, asset, host]);
  const ask = useCallback(
    async ({ parts: there }: typeof shown): Promise<Extents | null> => {
      const box = Object.keys(there).length > 0 ? await workspace.bounds(null) : null;
      return box && (box[1].map((high, i) => high - box[0][i]!) as Extents);
    },
    [workspace],
  );
  return useAnswer(shown, ask);
}
