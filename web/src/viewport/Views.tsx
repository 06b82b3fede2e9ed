/** The shot, and what is beside it: a free view, or up to three of a pair. */
import Box from "@mui/material/Box";
import { useEffect } from "react";
import { useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";
import { PaneView } from "./PaneView";

export function Views() {
  const workspace = useWorkspace();
  const count = useSlice((s) => s.panes.length);
  const maximised = useSlice((s) => s.maximised);

  // What nobody sees is not computed: a window in the background holds its views.
  useEffect(() => {
    const tell = () => workspace.setVisible(document.visibilityState === "visible");
    document.addEventListener("visibilitychange", tell);
    return () => document.removeEventListener("visibilitychange", tell);
  }, [workspace]);

  const seen = [...Array(count).keys()].filter((number) => maximised === null || maximised === number);
  return (
    <Box
      sx={{
        position: "absolute",
        inset: 0,
        display: "grid",
        gridAutoRows: "minmax(0, 1fr)",
        gridTemplateColumns: `repeat(${seen.length > 1 ? 2 : 1}, minmax(0, 1fr))`,
        gap: "2px",
        bgcolor: "background.default",
      }}
    >
      {seen.map((number) => (
        <PaneView key={number} number={number as PaneNumber} />
      ))}
    </Box>
  );
}
