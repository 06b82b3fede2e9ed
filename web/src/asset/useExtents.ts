/** The box around all that is visible [m], asked again when parts or their asset change; null until it is known. */
import { useEffect, useState } from "react";
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
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the answer depends on, though the question does not say it
  useEffect(() => {
    let gone = false;
    const rest = setTimeout(async () => {
      const box = await workspace.bounds(null);
      if (!gone && box) setExtents(box[1].map((high, i) => high - box[0][i]!) as Extents);
    }, REST_MS);
    return () => {
      gone = true;
      clearTimeout(rest);
    };
  }, [workspace, parts, asset, host]);
  return extents;
}
