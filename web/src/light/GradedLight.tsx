/** Graded light, in the place of a map: zenith, horizon and ground. */
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import { BoundField } from "../controls/bound";
import { described } from "../controls/fields";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";

const PLACES = [["environment", "graded"]];
const FIELDS = ["zenith", "horizon", "ground", "horizon_height"];

export function GradedLight() {
  const workspace = useWorkspace();
  const isOn = useScene((s) => s.environment.graded !== null);
  const hasMap = useScene((s) => s.environment.map !== null);
  if (hasMap && !isOn) return null;
  const fresh = () => Object.fromEntries(FIELDS.map((name) => [name, described("Graded", name).default]));
  return (
    <>
      <FormControlLabel
        control={<Switch size="small" checked={isOn} />}
        label="Graded from zenith to ground"
        slotProps={{ typography: { variant: "body2" } }}
        onChange={(_, checked) =>
          workspace.commit([replace("/environment/graded", checked ? fresh() : null)], "Graded light")
        }
      />
      {isOn && FIELDS.map((name) => <BoundField key={name} model="Graded" places={PLACES} name={name} />)}
    </>
  );
}
