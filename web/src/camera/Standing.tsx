/** Where the camera stands: the height of the eye, level, verticals upright; how much of the frame the asset fills. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Quantity, type QuantityField } from "../controls/Quantity";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { Turning } from "./Turning";

const EYE: QuantityField = {
  label: "Height of the eye",
  unit: "m",
  minimum: -1e6,
  maximum: 1e6,
  soft_minimum: 0,
  soft_maximum: 2,
  step: 0.01,
  scale: "linear",
  default: 1.6,
};
const SHARE: QuantityField = {
  label: "Fitted, it fills",
  unit: "%",
  minimum: 5,
  maximum: 100,
  soft_minimum: 20,
  soft_maximum: 100,
  step: 1,
  scale: "linear",
  default: 89,
};

export function Standing() {
  const workspace = useWorkspace();
  const position = useScene((s) => s.camera.position);
  const ground = useScene((s) => (s.ground.enabled ? s.ground.height : 0));
  const share = useSlice((s) => s.fills);
  const stand = async (how: "shift" | "level") => {
    const key = await workspace.commitBy("stand_upright", SHOT, { how });
    if (key === null)
      workspace.notify({ severity: "info", text: "The camera looks too steeply for a shift of the lens." });
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      <Quantity
        field={EYE}
        value={Number((position[1]! - ground).toFixed(4))}
        begin={() => {
          const gesture = workspace.begin("Height of the eye");
          const at = (height: number) => [position[0]!, Number((height + ground).toFixed(6)), position[2]!];
          return {
            ...gesture,
            preview: (height) => gesture.preview([replace(pointer("camera", "position"), at(height))]),
          };
        }}
      />
      <Quantity
        field={SHARE}
        value={share}
        begin={() => ({
          preview: (next) => workspace.fill(next),
          commit: () => {},
          cancel: () => workspace.fill(share),
          isOver: () => false,
        })}
      />
      <Box sx={{ display: "flex", gap: 1, mt: 0.5 }}>
        <Button fullWidth size="small" variant="outlined" onClick={() => void stand("shift")}>
          Verticals upright
        </Button>
        <Button fullWidth size="small" variant="outlined" onClick={() => void stand("level")}>
          Level
        </Button>
      </Box>
      <Turning />
    </Box>
  );
}
