/** Exposure by EV alone, or by shutter, f-number and ISO; changing from one to the other leaves the picture as bright. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { fields } from "../api/fields.gen";
import { Quantity, type QuantityField } from "../controls/Quantity";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";

const { exposure_time, iso } = fields.Camera;
const SHUTTER: QuantityField = { ...exposure_time, default: exposure_time.on };

export function ShutterExposure() {
  const workspace = useWorkspace();
  const time = useScene((s) => s.camera.exposure_time);
  const speed = useScene((s) => s.camera.iso);
  const isSharp = useScene((s) => s.camera.f_number === null);
  const begin = (name: "exposure_time" | "iso", label: string) => () => {
    const gesture = workspace.begin(label);
    return {
      ...gesture,
      preview: (next: number) => gesture.preview([replace(pointer("camera", name), next)]),
    };
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        aria-label="Exposure by"
        value={time === null ? "ev" : "shutter"}
        onChange={(_, how: string | null) => how && void workspace.commitBy("expose_by", SHOT, { how })}
      >
        <ToggleButton value="ev" sx={{ py: 0.25 }}>
          By EV
        </ToggleButton>
        <ToggleButton value="shutter" sx={{ py: 0.25 }}>
          Shutter and ISO
        </ToggleButton>
      </ToggleButtonGroup>
      {time !== null && (
        <Box sx={{ mt: 0.75 }}>
          <Quantity field={SHUTTER} value={time} begin={begin("exposure_time", "Shutter")} />
          <Quantity field={iso} value={speed} begin={begin("iso", "ISO")} />
          <Typography variant="caption" color="textSecondary" component="p">
            {isSharp ? "Exposes as f/8, since all is sharp. " : ""}EV above adds to it.
          </Typography>
        </Box>
      )}
    </Box>
  );
}
