/** Light: environment or sky, the lights, what the camera sees behind the asset, the ground, the air. */
import Typography from "@mui/material/Typography";
import { FieldGroups } from "../controls/FieldGroup";
import type { Place } from "../controls/fields";
import { useScene } from "../store/context";
import { LightList } from "./LightList";

const at = (section: string): Place[] => [[section]];
const [ENVIRONMENT, SKY, BACKDROP, GROUND, HAZE] = ["environment", "sky", "backdrop", "ground", "haze"].map(
  at,
);

export function LightStop() {
  const map = useScene((s) => s.environment.map?.name ?? "Even white light");
  return (
    <>
      <Typography noWrap sx={{ fontWeight: 600, mb: 1 }}>
        {map}
      </Typography>
      <FieldGroups model="Environment" places={ENVIRONMENT!} open={["environment"]} />
      <LightList />
      <FieldGroups model="Sky" places={SKY!} open={[]} />
      <FieldGroups model="Backdrop" places={BACKDROP!} open={[]} />
      <FieldGroups model="Ground" places={GROUND!} open={[]} />
      <FieldGroups model="Haze" places={HAZE!} open={[]} />
    </>
  );
}
