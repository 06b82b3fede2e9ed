/** The keys of a track on its line: pressed, their moment is shown; dragged, they move in time; with Alt, a copy does. */
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

interface Held {
  gesture: Gesture | null;
  x: number;
  place: number;
  keys: Keys;
  /** Whether the key stays, and a copy of it goes. */
  copies: boolean;
}

type Keys = Keyed["keys"];

/** The keys of which one is so much later [s], as far as its neighbours let it; and when it is then. */
export function movedBy(keys: Keys, place: number, by: number, seconds: number): [Keys, number] {
  const low = place > 0 ? keys[place - 1]!.time + GAP : 0;
  const high = keys[place + 1] ? keys[place + 1]!.time - GAP : seconds;
  const time = toMillisecond(Math.min(Math.max(keys[place]!.time + by, low), high));
  return [keys.map((key, n) => (n === place ? { ...key, time } : key)), time];
}

/** The keys with a copy of one so much later [s], wherever that is; over what stands there. */
export function copiedBy(keys: Keys, place: number, by: number, seconds: number): [Keys, number] {
  const time = toMillisecond(Math.min(Math.max(keys[place]!.time + by, 0), seconds));
  const others = keys.filter((key) => Math.abs(key.time - time) >= GAP);
  return [[...others, { ...keys[place]!, time }].sort((a, b) => a.time - b.time), time];
}

const toMillisecond = (time: number) => Number(time.toFixed(3));

interface Props {
  id: string;
  move: Keyed;
  seconds: number;
  track: RefObject<HTMLDivElement | null>;
}

export function KeyTicks({ id, move, seconds, track }: Props) {
  const workspace = useWorkspace();
  const here = useScene((s) => keyAt(move.keys, s.shutter.time));
  const held = useRef<Held | null>(null);
  const take = (place: number) => (event: PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { gesture: null, x: event.clientX, place, keys: move.keys, copies: event.altKey };
  };
  const drag = (event: PointerEvent) => {
    const { current } = held;
    if (!current || !track.current || Math.abs(event.clientX - current.x) < MOVED_PX) return;
    current.gesture ??= workspace.begin(`Key of ${move.name}`);
    const by = ((event.clientX - current.x) / track.current.clientWidth) * seconds;
    const [next, time] = (current.copies ? copiedBy : movedBy)(current.keys, current.place, by, seconds);
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
