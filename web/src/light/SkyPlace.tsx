/** Where and when the sun is looked up, in the place of angles by hand. */
import Box from "@mui/material/Box";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import { BoundQuantity } from "../controls/bound";
import { described } from "../controls/fields";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";

const PLACES = [["sky", "place"]];
const FIELDS = ["hour", "latitude", "longitude", "zone", "north"];

export function SkyPlace() {
  const workspace = useWorkspace();
  const isOn = useScene((s) => s.sky.enabled);
  const place = useScene((s) => s.sky.place ?? null);
  if (!isOn) return null;
  const fresh = () =>
    Object.fromEntries(
      ["name", "date", ...FIELDS].map((name) => [name, described("SunPlace", name).default]),
    );
  return (
    <Box>
      <FormControlLabel
        control={<Switch size="small" checked={place !== null} />}
        label="By place and time"
        slotProps={{ typography: { variant: "body2" } }}
        onChange={(_, checked) =>
          workspace.commit([replace("/sky/place", checked ? fresh() : null)], "Sun by place and time")
        }
      />
      {place && (
        <>
          <TextField
            size="small"
            fullWidth
            type="date"
            label="Date"
            value={place.date}
            onChange={(event) =>
              event.target.value && workspace.commit([replace("/sky/place/date", event.target.value)], "Date")
            }
            sx={{ my: 0.75 }}
          />
          {FIELDS.map((name) => (
            <BoundQuantity key={name} model="SunPlace" places={PLACES} name={name} />
          ))}
        </>
      )}
    </Box>
  );
}
