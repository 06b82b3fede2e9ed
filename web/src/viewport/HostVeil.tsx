/** What stands in the picture's place, or over it, while the render host is not there. */
import Box from "@mui/material/Box";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { memo } from "react";
import type { HostState } from "../api/types";
import { useSlice } from "../store/context";

/** CSS pixels from the top, where a picture is there: the view's own bar stays in reach. */
const BELOW_BAR = 52;

const WORDS = {
  starting: ["Preparing the proof", "The asset is being read and its light measured."],
  restarting: [
    "The render host stopped and is coming back",
    "Nothing is lost: every edit is kept in the project.",
  ],
  waiting: [
    "Waiting for a place",
    "This machine renders as many projects as it can; the first that rests makes room for this one.",
  ],
  resting: ["Resting", "Nobody looked for a while; the proof comes back now."],
  failed: [
    "The render host keeps stopping",
    "Undo the last edit or open another project; the server's log says more.",
  ],
  lost: ["The connection is lost", "Trying again. Edits made meanwhile are sent when it is back."],
  out: ["You are signed out", "Reload this page to sign in again. Every edit that was saved is kept."],
  unknown: ["This project is not there", "It may have been removed, or belong to somebody else."],
} as const;

export const HostVeil = memo(function HostVeil() {
  const host = useSlice((s) => s.host);
  const connection = useSlice((s) => s.connection);
  const empty = useSlice((s) => s.panes[0].frame === null);
  const lost = connection === "lost";
  const unknown = connection === "unknown-project";
  const out = connection === "signed-out";
  if (!lost && !unknown && !out && (host === "ready" || (host === "starting" && !empty))) return null;
  const [title, hint] = unknown
    ? WORDS.unknown
    : out
      ? WORDS.out
      : lost
        ? WORDS.lost
        : WORDS[host as Exclude<HostState, "ready">];
  const ended = unknown || out || (!lost && host === "failed");
  return (
    <Box
      role="status"
      data-testid="veil"
      sx={{
        position: "absolute",
        left: "50%",
        width: "max-content",
        ...(empty
          ? { top: "50%", transform: "translate(-50%, -50%)" }
          : { top: BELOW_BAR, transform: "translateX(-50%)" }),
        px: 3,
        py: 2,
        maxWidth: "min(420px, calc(100% - 32px))",
        textAlign: "center",
        bgcolor: "background.paper",
        borderRadius: 2,
        boxShadow: 6,
      }}
    >
      <Typography sx={{ fontWeight: 600 }}>{title}</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ mb: ended ? 0 : 1.5 }}>
        {hint}
      </Typography>
      {!ended && <LinearProgress color="secondary" aria-label={title} />}
    </Box>
  );
});
