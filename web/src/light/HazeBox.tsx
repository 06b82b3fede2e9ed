/** Haze everywhere, or only in a box, which begins around the asset. */
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";

/** How far the box begins beyond the asset, in shares of its size. */
const ROOM = 0.5;

export function HazeBox() {
  const workspace = useWorkspace();
  const isOn = useScene((s) => s.haze.enabled);
  const hasBox = useScene((s) => (s.haze.box ?? null) !== null);
  if (!isOn) return null;
  const switched = async (on: boolean) => {
    const bounds = on ? await workspace.bounds(null) : null;
    const [low, high] = bounds ?? [
      [-1, 0, -1],
      [1, 2, 1],
    ];
    const room = ROOM * Math.max(...low.map((v, i) => high[i]! - v));
    const box = {
      low: low.map((v) => Number((v - room).toPrecision(5))),
      high: high.map((v) => Number((v + room).toPrecision(5))),
    };
    workspace.commit([replace("/haze/box", on ? box : null)], on ? "Haze in a box" : "Haze everywhere");
  };
  return (
    <FormControlLabel
      control={<Switch size="small" checked={hasBox} />}
      label="Only in a box"
      slotProps={{ typography: { variant: "body2" } }}
      onChange={(_, checked) => void switched(checked)}
    />
  );
}
