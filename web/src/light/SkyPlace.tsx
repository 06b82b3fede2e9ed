/** Where and when the sun is looked up, in the place of angles by hand: a city, a date or a season, an hour, a day played. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Slider from "@mui/material/Slider";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { Pause, Play } from "lucide-react";
import { useRef } from "react";
import { BoundQuantity } from "../controls/bound";
import { described } from "../controls/fields";
import { useScene, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { SHOT } from "../store/panes";
import { replace } from "../store/patch";
import { keepsBrightness } from "./brightness";
import { CityField } from "./CityField";
import { DAYS, dayOf, SEASONS, withDay } from "./days";
import { useDayPlayed } from "./useDayPlayed";

const PLACES = [["sky", "place"]];
const WHERE = ["latitude", "longitude", "zone", "north"];

/** Sky or what was there before; the exposure follows, as with any other environment. */
export function SkySwitch() {
  const workspace = useWorkspace();
  const isOn = useScene((s) => s.sky.enabled ?? false);
  return (
    <FormControlLabel
      labelPlacement="start"
      control={<Switch size="small" checked={isOn} />}
      label="Sky"
      slotProps={{ typography: { variant: "body2" } }}
      onChange={(_, checked) =>
        void workspace.commitBy("switch_sky", SHOT, { on: checked, keeps: keepsBrightness() })
      }
      sx={{ display: "flex", justifyContent: "space-between", ml: 0, mr: 0 }}
    />
  );
}

export function SkyPlace() {
  const workspace = useWorkspace();
  const isOn = useScene((s) => s.sky.enabled);
  const place = useScene((s) => s.sky.place ?? null);
  if (!isOn) return null;
  const fresh = () =>
    Object.fromEntries(
      ["name", "date", "hour", ...WHERE].map((name) => [name, described("SunPlace", name).default]),
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
          <CityField />
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
          <Season date={place.date!} />
          <BoundQuantity model="SunPlace" places={PLACES} name="hour" />
          <DayButton />
          {WHERE.map((name) => (
            <BoundQuantity key={name} model="SunPlace" places={PLACES} name={name} />
          ))}
        </>
      )}
    </Box>
  );
}

/** The year as a slider: the light follows while it is dragged. */
function Season({ date }: { date: string }) {
  const workspace = useWorkspace();
  const gesture = useRef<Gesture | null>(null);
  return (
    <Box sx={{ px: 1 }}>
      <Typography variant="caption" color="textSecondary">
        Season
      </Typography>
      <Slider
        size="small"
        aria-label="Season"
        min={0}
        max={DAYS - 1}
        value={dayOf(date)}
        marks={SEASONS}
        valueLabelDisplay="auto"
        valueLabelFormat={(day) => withDay(date, day)}
        onChange={(_, day) => {
          if (gesture.current === null || gesture.current.isOver())
            gesture.current = workspace.begin("Season");
          gesture.current.preview([replace("/sky/place/date", withDay(date, day as number))]);
        }}
        onChangeCommitted={() => {
          gesture.current?.commit();
          gesture.current = null;
        }}
        sx={{ "& .MuiSlider-markLabel": { fontSize: 10.5 } }}
      />
    </Box>
  );
}

function DayButton() {
  const { isPlaying, toggle } = useDayPlayed();
  return (
    <Button
      size="small"
      color="secondary"
      startIcon={isPlaying ? <Pause size={14} /> : <Play size={14} />}
      onClick={toggle}
    >
      {isPlaying ? "Stop at this hour" : "Play the day"}
    </Button>
  );
}
