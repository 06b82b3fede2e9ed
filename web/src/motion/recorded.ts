/** Edits of places that have a track: what is changed is a key at the moment that is shown. Pure functions. */
import type { Keyed, Motion, Operation, Scene } from "../api/types";
import { pointer, replace } from "../store/patch";

/** Seconds within which two moments are one. */
const SAME_MOMENT = 1e-4;

/** The tracks of a document by the place that they move; of several the last one counts. */
export const tracksOf = (moves: Motion["moves"]): Map<string, [string, Keyed]> =>
  new Map(
    Object.entries(moves).flatMap(([id, move]) =>
      move.kind === "keyed" && move.enabled ? [[move.path, [id, move]]] : [],
    ),
  );

type Key = Keyed["keys"][number];

/** Which key stands at a moment; -1 for none. */
export const keyAt = (keys: readonly Key[], time: number) =>
  keys.findIndex((key) => Math.abs(key.time - time) < SAME_MOMENT);

/** The keys with another value at a moment; what stands there keeps how it goes on, a new one goes on as that before. */
export function withKey(keys: readonly Key[], time: number, value: Key["value"]): Key[] {
  const here = keyAt(keys, time);
  if (here >= 0) return keys.map((key, place) => (place === here ? { ...key, value } : key));
  const before = keys.filter((key) => key.time < time);
  const fresh = { time, value, to_next: before.at(-1)?.to_next ?? ("line" as const) };
  return [...before, fresh, ...keys.slice(before.length)];
}

/** Keys that go from `start` to `end` [s] instead of from their first to their last, each where it was in between. */
export function retimed(keys: readonly Key[], start: number, end: number): Key[] {
  const [first, last] = [keys[0]!.time, keys.at(-1)!.time];
  const scale = last > first ? (end - start) / (last - first) : 0;
  return keys.map((key) => ({ ...key, time: Number((start + (key.time - first) * scale).toFixed(6)) }));
}

export interface Recorded {
  patch: Operation[];
  /** What the places with a track are like now, by the patch. */
  moved: Record<string, unknown>;
}

/** A patch whose changes of places with a track are keys. */
export function recorded(scene: Scene, patch: Operation[]): Recorded {
  const tracks = tracksOf(scene.motion.moves);
  const moved: Record<string, unknown> = {};
  if (tracks.size === 0) return { patch, moved };
  const time = scene.shutter.time;
  const changed = patch.map((operation) => {
    const track = operation.op === "replace" ? tracks.get(operation.path) : undefined;
    if (!track) return operation;
    const [id, move] = track;
    const { value } = operation as { value: Key["value"] };
    moved[operation.path] = value;
    return replace(pointer("motion", "moves", id, "keys"), withKey(move.keys, time, value));
  });
  return { patch: changed, moved };
}
