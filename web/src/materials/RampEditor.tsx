/** A ramp: a bar of its colours with a handle for each stop, which drags; below it the stop that is chosen. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { mostStops } from "../api/fields.gen";
import type { Color } from "../api/types";
import { BoundField } from "../controls/bound";
import { ColorField } from "../controls/ColorField";
import { toHex } from "../controls/color";
import { type Place, valueAt } from "../controls/fields";
import type { Input } from "../controls/inputs";
import { useScene, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import { background, type Stop, withColor, withoutStop, withPlace, withStop } from "./ramp";

/** A stop is what stands at its place in the row: while it is dragged, colour and place change. */
const NUMBERS = Array.from({ length: mostStops }, (_, number) => number);
const KEY_STEP = 0.01;
const BLACK_TO_WHITE: Stop[] = [
  { at: 0, color: [0, 0, 0] },
  { at: 1, color: [1, 1, 1] },
];

export function RampEditor({ places }: { places: readonly Place[] }) {
  const workspace = useWorkspace();
  const ramp = useScene((s) => (valueAt(s, places[0]!) as Input | undefined)?.ramp ?? null);
  const [chosen, setChosen] = useState(0);
  const held = useRef<Gesture<Stop[]> | null>(null);
  useEffect(() => () => held.current?.commit(), []);
  const set = (next: Input["ramp"], label: string) =>
    workspace.commit(
      places.map((place) => replace(pointer(...place, "ramp"), next)),
      label,
    );
  if (!ramp)
    return (
      <Button
        size="small"
        sx={{ ml: -0.75, px: 0.75 }}
        onClick={() => set({ stops: BLACK_TO_WHITE, blend: "linear" }, "Ramp")}
      >
        Colours by a ramp
      </Button>
    );
  const stops = ramp.stops as Stop[];
  const begin = (): Gesture<Stop[]> => {
    const gesture = workspace.begin("Ramp");
    return {
      ...gesture,
      preview: (next) =>
        gesture.preview(places.map((place) => replace(pointer(...place, "ramp", "stops"), next))),
    };
  };
  const commit = (next: Stop[]) => {
    const gesture = begin();
    gesture.preview(next);
    gesture.commit();
  };
  const now = Math.min(chosen, stops.length - 1);
  const stop = stops[now]!;
  const drag = (event: PointerEvent<HTMLElement>, number: number) => {
    const bar = event.currentTarget.parentElement!.getBoundingClientRect();
    const handle = event.currentTarget;
    handle.setPointerCapture(event.pointerId);
    setChosen(number);
    held.current = begin();
    const move = (moved: globalThis.PointerEvent) =>
      held.current?.preview(withPlace(stops, number, (moved.clientX - bar.left) / bar.width));
    const end = () => {
      handle.removeEventListener("pointermove", move);
      held.current?.commit();
      held.current = null;
    };
    handle.addEventListener("pointermove", move);
    handle.addEventListener("pointerup", end, { once: true });
    handle.addEventListener("pointercancel", end, { once: true });
  };
  const step = (event: KeyboardEvent, number: number) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way === undefined) return;
    event.preventDefault();
    commit(withPlace(stops, number, stops[number]!.at + way * KEY_STEP));
  };
  return (
    <Box role="group" aria-label="Ramp" sx={{ my: 0.75 }}>
      <Box
        sx={{
          position: "relative",
          height: 22,
          borderRadius: 0.75,
          border: "1px solid #555",
          mx: 0.75,
          mb: 1.25,
        }}
        style={{ background: background(stops, ramp.blend) }}
        onDoubleClick={(event) => {
          const bar = event.currentTarget.getBoundingClientRect();
          if (stops.length >= mostStops) return;
          const [next, number] = withStop(stops, (event.clientX - bar.left) / bar.width);
          commit(next);
          setChosen(number);
        }}
      >
        {NUMBERS.slice(0, stops.length).map((number) => (
          <ButtonBase
            key={number}
            role="slider"
            aria-label={`Stop ${number + 1}`}
            aria-valuemin={0}
            aria-valuemax={1}
            aria-valuenow={stops[number]!.at}
            onPointerDown={(event) => drag(event, number)}
            onKeyDown={(event) => step(event, number)}
            onFocus={() => setChosen(number)}
            sx={{
              position: "absolute",
              top: 10,
              width: 12,
              height: 18,
              ml: "-6px",
              borderRadius: 0.75,
              border: "2px solid",
              borderColor: number === now ? "primary.light" : "#999",
              cursor: "ew-resize",
              touchAction: "none",
            }}
            style={{ left: `${stops[number]!.at * 100}%`, background: toHex(stops[number]!.color) }}
          />
        ))}
      </Box>
      <ColorField
        label={`Stop ${now + 1}`}
        value={stop.color}
        begin={() => {
          const gesture = begin();
          return { ...gesture, preview: (color: Color) => gesture.preview(withColor(stops, now, color)) };
        }}
      />
      <BoundField model="Ramp" places={places.map((place) => [...place, "ramp"])} name="blend" />
      <Box sx={{ display: "flex", gap: 0.5, "& button": { minWidth: 0, px: 0.75 }, ml: -0.75 }}>
        <Button
          size="small"
          disabled={stops.length >= mostStops}
          onClick={() => {
            const [next, number] = withStop(stops, null);
            commit(next);
            setChosen(number);
          }}
        >
          Add a stop
        </Button>
        <Button size="small" disabled={stops.length <= 2} onClick={() => commit(withoutStop(stops, now))}>
          Remove it
        </Button>
        <Button size="small" onClick={() => set(null, "No ramp")}>
          No ramp
        </Button>
      </Box>
    </Box>
  );
}
