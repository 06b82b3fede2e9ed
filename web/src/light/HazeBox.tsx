/** Haze everywhere, or only in a box, which begins around the asset. */
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

export function HazeBox() {
  const workspace = useWorkspace();
  const isOn = useScene((s) => s.haze.enabled);
  const hasBox = useScene((s) => (s.haze.box ?? null) !== null);
  if (!isOn) return null;
  return (
    <FormControlLabel
      control={<Switch size="small" checked={hasBox} />}
      label="Only in a box"
      slotProps={{ typography: { variant: "body2" } }}
      onChange={(_, on) => void workspace.commitBy("box_haze", SHOT, { on })}
    />
  );
}
