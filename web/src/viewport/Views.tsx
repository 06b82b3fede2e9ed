/** The shot, and the free view beside it when it is open. */
import Box from "@mui/material/Box";
import { useEffect } from "react";
import { useSlice, useWorkspace } from "../store/context";
import { FREE, SHOT } from "../store/panes";
import { PaneView } from "./PaneView";

export function Views() {
  const workspace = useWorkspace();
  const two = useSlice((s) => s.panes.length === 2);
  const maximised = useSlice((s) => s.maximised);

  // What nobody sees is not computed: a window in the background holds its views.
  useEffect(() => {
    const tell = () => workspace.setVisible(document.visibilityState === "visible");
    document.addEventListener("visibilitychange", tell);
    return () => document.removeEventListener("visibilitychange", tell);
  }, [workspace]);

  return (
    <Box sx={{ position: "absolute", inset: 0, display: "flex", gap: "2px", bgcolor: "background.default" }}>
      {maximised !== FREE && <PaneView number={SHOT} />}
      {two && maximised !== SHOT && <PaneView number={FREE} />}
    </Box>
  );
}
