/** The box around all that is visible [m], asked again when parts or their asset change; null until it is known. */
import { useEffect, useMemo, useState } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";

export type Extents = [number, number, number];

/** Changes that follow one another more quickly are one question. */
const REST_MS = 250;

export function useExtents(): Extents | null {
  const workspace = useWorkspace();
  const parts = useScene((s) => s.parts);
  const asset = useScene((s) => s.asset);
  const host = useSlice((s) => s.host);
  const [extents, setExtents] = useState<Extents | null>(null);
  // What the answer depends on: where the parts are, and that the host is there to say it.
  const shown = useMemo(() => ({ parts, asset, host }), [parts, asset, host]);
  useEffect(() => {
    if (Object.keys(shown.parts).length === 0) return;
    let gone = false;
    const rest = setTimeout(async () => {
      const box = await workspace.bounds(null);
      if (!gone && box) setExtents(box[1].map((high, i) => high - box[0][i]!) as Extents);
    }, REST_MS);
    return () => {
      gone = true;
      clearTimeout(rest);
    };
  }, [workspace, shown]);
  return extents;
}
