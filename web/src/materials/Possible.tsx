/** What of the selected materials no real thing has, with the nearest that one could have at a click. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useCallback, useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
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
  if (doubts.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label="Is it possible?"
      sx={{ mb: 1, pl: 1.25, borderLeft: "2px solid", borderColor: "warning.main" }}
    >
      {doubts.map(({ material, field, text, patch }) => (
        <Box key={`${material} ${field}`} sx={{ mb: 0.5 }}>
          <Typography variant="body2">{text}</Typography>
          {patch.length > 0 && (
            <Button
              size="small"
              sx={{ ml: -0.75, px: 0.75 }}
              onClick={() => workspace.commit(patch, "Nearest possible")}
            >
              Nearest possible
            </Button>
          )}
        </Box>
      ))}
    </Box>
  );
}
