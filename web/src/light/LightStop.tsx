/** Light: by hand, environment and cards, lights, sun and sky, what the camera sees behind, the ground, the air. */
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { FieldGroups } from "../controls/FieldGroup";
import type { Place } from "../controls/fields";
import { leadsLight } from "../motion/fixed";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";
import { AllLight } from "./AllLight";
import { Balance } from "./Balance";
import { keepBrightness, keepsBrightness } from "./brightness";
import { CardList } from "./CardList";
import { GradedLight } from "./GradedLight";
import { HazeBox } from "./HazeBox";
import { ImageField, MapField } from "./ImageField";
import { LightList } from "./LightList";
import { LightTools } from "./LightTools";
import { SkyPlace, SkySwitch } from "./SkyPlace";
import { useShares } from "./useShares";

const at = (section: string): Place[] => [[section]];
const [ENVIRONMENT, SKY, BACKDROP, GROUND, HAZE] = ["environment", "sky", "backdrop", "ground", "haze"].map(
  at,
);
const OPEN = ["environment"];
const NONE: string[] = [];
const HAZE_BOX = { haze: <HazeBox /> };
const SKY_SWITCH = { enabled: <SkySwitch /> };

export function LightStop() {
  const map = useScene(
    (s) => s.environment.map?.name ?? (s.environment.graded ? "Graded light" : "Even white light"),
  );
  const shares = useShares();
  return (
    <>
      <LedLight />
      <LightTools />
      <AllLight />
      <Typography noWrap sx={{ fontWeight: 600, mb: 0.5 }}>
        {map}
      </Typography>
      <FieldGroups
        model="Environment"
        places={ENVIRONMENT!}
        open={OPEN}
        more={{ environment: <GradedLight />, grade: <KeepBrightness /> }}
      />
      <CardList />
      <LightList shares={shares.shares} />
      <Balance {...shares} />
      <FieldGroups model="Sky" places={SKY!} open={NONE} more={{ sky: <SkyPlace /> }} instead={SKY_SWITCH} />
      <FieldGroups model="Backdrop" places={BACKDROP!} open={NONE} more={{ backdrop: <BackdropFile /> }} />
      <FieldGroups model="Ground" places={GROUND!} open={NONE} />
      <FieldGroups model="Haze" places={HAZE!} open={NONE} more={HAZE_BOX} />
    </>
  );
}

/** Says that what is set here is not seen while the time line leads the light. */
function LedLight() {
  const by = useScene((s) => leadsLight(s)?.name ?? null);
  if (by === null) return null;
  return (
    <Typography role="note" variant="caption" component="p" color="textSecondary" sx={{ mb: 1 }}>
      The time line leads the light: {by}. What is set here is seen when that is off; conditions are changed
      by keeping them anew.
    </Typography>
  );
}

function KeepBrightness() {
  const [keeps, setKeeps] = useState(keepsBrightness);
  return (
    <FormControlLabel
      control={<Switch size="small" checked={keeps} />}
      label="A new one keeps the picture as bright"
      slotProps={{ typography: { variant: "body2" } }}
      onChange={(_, checked) => {
        keepBrightness(checked);
        setKeeps(checked);
      }}
    />
  );
}

/** The picture behind the asset, of a backdrop that has one. */
function BackdropFile() {
  const workspace = useWorkspace();
  const kind = useScene((s) => s.backdrop.kind);
  const file = useScene((s) => s.backdrop.file ?? null);
  if (kind !== "photograph" && kind !== "map") return null;
  const Field = kind === "map" ? MapField : ImageField;
  return (
    <Field
      label={kind === "map" ? "Map" : "Photograph"}
      none="None yet"
      file={file}
      onFile={(next, name) => workspace.commit([replace("/backdrop/file", next)], `Backdrop: ${name}`)}
    />
  );
}
