/** Begins, ends and carries out the matching of the camera to a photograph by two vanishing points. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { Camera } from "../api/types";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import type { Matching } from "../store/view";

/** As a table seen from its corner has them. */
const BEGIN: Matching = {
  along: [
    [0.2, 0.61, 0.47, 0.84],
    [0.54, 0.5, 0.82, 0.64],
  ],
  across: [
    [0.82, 0.68, 0.54, 0.84],
    [0.47, 0.5, 0.2, 0.57],
  ],
  foot: [0.5, 0.66],
};

interface Matched {
  camera: Camera | null;
  problem: string | null;
}

export function MatchView() {
  const workspace = useWorkspace();
  const matching = useSlice((s) => s.matching);
  const match = async () => {
    const answer = await workspace.askHost<Matched>("match_view", SHOT, matching ?? BEGIN);
    if (answer?.camera) {
      workspace.commitCamera(SHOT, answer.camera, "Match the photograph");
      workspace.set({ matching: null });
    } else if (answer?.problem) workspace.notify({ severity: "error", text: answer.problem });
  };
  if (!matching)
    return (
      <Button fullWidth size="small" variant="outlined" onClick={() => workspace.set({ matching: BEGIN })}>
        Match a photograph
      </Button>
    );
  return (
    <Box sx={{ p: 1, border: "1px solid", borderColor: "divider", borderRadius: 1 }}>
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mb: 1 }}>
        Draw the two plum lines along edges that run one way over the ground, the two white ones along edges
        square to them. The ring is where the asset stands.
      </Typography>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button fullWidth size="small" variant="contained" onClick={() => void match()}>
          Match
        </Button>
        <Button fullWidth size="small" variant="outlined" onClick={() => workspace.set({ matching: null })}>
          Leave it
        </Button>
      </Box>
    </Box>
  );
}
