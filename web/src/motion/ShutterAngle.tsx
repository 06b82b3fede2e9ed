/** How long the shutter is open in each frame, as the angle of a turning disk: 360° is all of a frame. */
import { Quantity, type QuantityField } from "../controls/Quantity";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";
import { angleOf, openFor } from "./shutter";

const FIELD: QuantityField = {
  label: "Shutter angle",
  unit: "°",
  minimum: 0,
  maximum: 360,
  soft_minimum: 0,
  soft_maximum: 360,
  step: 5,
  scale: "linear",
  default: 0,
};

export function ShutterAngle() {
  const workspace = useWorkspace();
  const rate = useScene((s) => s.motion.rate);
  const angle = useScene((s) => angleOf(s.shutter, s.motion.rate));
  return (
    <Quantity
      field={FIELD}
      value={angle}
      begin={() => {
        const gesture = workspace.begin("Shutter angle");
        return {
          ...gesture,
          preview: (next) => {
            const { opens, closes } = openFor(next, rate);
            gesture.preview([replace("/shutter/opens", opens), replace("/shutter/closes", closes)]);
          },
        };
      }}
    />
  );
}
