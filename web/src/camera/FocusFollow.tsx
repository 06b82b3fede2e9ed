/** What the focus follows, and whether the next press is to be followed. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

export function FollowSwitch() {
  const workspace = useWorkspace();
  const follows = useSlice((s) => s.follows);
  return (
    <FormControlLabel
      control={
        <Switch
          size="small"
          checked={follows}
          onChange={(_, next) => workspace.follow(next)}
          sx={{ mr: 1 }}
        />
      }
      label="Then follow that part"
      slotProps={{ typography: { variant: "body2", color: "textSecondary" } }}
      sx={{ ml: -0.75 }}
    />
  );
}

export function Followed() {
  const workspace = useWorkspace();
  const name = useScene((s) => {
    const on = s.camera.focus_on;
    return on ? (s.parts[on.part]?.name ?? "a part that is gone") : null;
  });
  if (name === null) return null;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 28 }}>
      <Typography variant="body2" noWrap sx={{ flex: 1 }} data-testid="focus-follows">
        Focus follows {name}
      </Typography>
      <Button size="small" onClick={() => void workspace.commitBy("follow_focus", SHOT, { at: null })}>
        Let go
      </Button>
    </Box>
  );
}
