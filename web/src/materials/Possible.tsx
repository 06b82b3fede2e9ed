/** What of the selected materials no real thing has, with the nearest that one could have at a click. */
import { useCallback, useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { Doubts } from "../controls/Doubts";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { useAnswer } from "../store/useAnswer";

export function Possible({ materials }: { materials: string[] }) {
  const workspace = useWorkspace();
  const shown = useScene(useShallow((s) => materials.map((key) => s.materials[key])));
  const host = useSlice((s) => s.host);
  // What the answer depends on: the materials, and that the host is there to say it.
  const asked = useMemo(() => ({ materials, shown, host }), [materials, shown, host]);
  const ask = useCallback((of: typeof asked) => workspace.doubts(of.materials), [workspace]);
  const doubts = useAnswer(asked, ask) ?? [];
  return <Doubts label="Is it possible?" mend="Nearest possible" doubts={doubts} />;
}
