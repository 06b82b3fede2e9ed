/** The keys of a track on its line: pressed, their moment is shown; dragged, they move in time. */
import Box from "@mui/material/Box";
import { type PointerEvent, type RefObject, useRef } from "react";
import type { Keyed } from "../api/types";
import { useScene, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import { keyAt } from "./recorded";
import { MOMENT } from "./usePlayed";

const MOVED_PX = 3;
/** Between two keys, that one does not pass [s]. */
const GAP = 0.001;

interface Props {
  id: string;
  move: Keyed;
  seconds: number;
  track: RefObject<HTMLDivElement | null>;
}

export function KeyTicks({ id, move, seconds, track }: Props) {
  const workspace = useWorkspace();
  const here = useScene((s) => keyAt(move.keys, s.shutter.time));
  const held = useRef<{ gesture: Gesture | null; x: number; place: number; keys: Keyed["keys"] } | null>(
    null,
  );
  const take = (place: number) => (event: PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { gesture: null, x: event.clientX, place, keys: move.keys };
  };
  const drag = (event: PointerEvent) => {
    const { current } = held;
    if (!current || !track.current || Math.abs(event.clientX - current.x) < MOVED_PX) return;
    current.gesture ??= workspace.begin(`Key of ${move.name}`);
    const { keys, place } = current;
    const by = ((event.clientX - current.x) / track.current.clientWidth) * seconds;
    const low = place > 0 ? keys[place - 1]!.time + GAP : 0;
    const high = keys[place + 1] ? keys[place + 1]!.time - GAP : seconds;
    const time = Number(Math.min(Math.max(keys[place]!.time + by, low), high).toFixed(3));
    const next = keys.map((key, n) => (n === place ? { ...key, time } : key));
    current.gesture.preview([replace(pointer("motion", "moves", id, "keys"), next), replace(MOMENT, time)]);
  };
  const letGo = () => {
    const { current } = held;
    held.current = null;
    if (!current) return;
    if (current.gesture) current.gesture.commit();
    else workspace.commit([replace(MOMENT, current.keys[current.place]!.time)], "Moment");
    workspace.set({ move: id });
  };
  return Object.entries(move.keys).map(([at, key]) => {
    const place = Number(at);
    return (
      <Box
        key={at}
        role="button"
        tabIndex={-1}
        aria-label={`Key ${place + 1} of ${move.name}, ${key.time.toFixed(2)} s`}
        onPointerDown={take(place)}
        onPointerMove={drag}
        onPointerUp={letGo}
        onPointerCancel={letGo}
        sx={{
          position: "absolute",
          left: `calc(${(100 * Math.min(Math.max(key.time, 0), seconds)) / seconds}% - 4px)`,
          top: 3,
          bottom: 3,
          width: 8,
          borderRadius: 4,
          bgcolor: place === here ? "primary.main" : "text.secondary",
          cursor: "ew-resize",
          touchAction: "none",
        }}
      />
    );
  });
}
