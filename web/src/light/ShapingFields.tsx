/** What shapes the light of a lamp before it leaves: barn doors, an image in the gate. */
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import { useMemo } from "react";
import type { Light } from "../api/types";
import { BoundQuantity } from "../controls/bound";
import { described } from "../controls/fields";
import { useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { ImageField } from "./ImageField";

const DOORS = ["upper", "lower", "left", "right"];

export function ShapingFields({ id, light }: { id: string; light: Light }) {
  const workspace = useWorkspace();
  const places = useMemo(() => [["lights", id, "doors"]], [id]);
  if (light.kind === "spot")
    return (
      <ImageField
        label="Image that it throws"
        none="None"
        file={light.gobo ?? null}
        onFile={(file, name) =>
          workspace.commit([replace(pointer("lights", id, "gobo"), file)], `Throw: ${name}`)
        }
      />
    );
  if (light.kind !== "rectangle") return null;
  const doors = light.doors ?? null;
  const fresh = () => Object.fromEntries(DOORS.map((name) => [name, described("BarnDoors", name).default]));
  return (
    <>
      <FormControlLabel
        control={<Switch size="small" checked={doors !== null} />}
        label="Barn doors"
        slotProps={{ typography: { variant: "body2" } }}
        onChange={(_, checked) =>
          workspace.commit([replace(pointer("lights", id, "doors"), checked ? fresh() : null)], "Barn doors")
        }
      />
      {doors &&
        DOORS.map((name) => <BoundQuantity key={name} model="BarnDoors" places={places} name={name} />)}
    </>
  );
}
