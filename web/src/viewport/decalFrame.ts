/**
 * Where the frame of a decal, or of a placement, stands in the scene, as `lantern.compile.sticking` and `input_rows`
 * have it, and what its handles make of it.
 * A decal's middle and directions are in the space of the part that carries it, whose unit is made metres: the unit of
 * its file for a decal, which grows with a part that is sized by hand, and what has become of it for a pattern.
 */
import type { Decal, Scene } from "../api/types";
import {
  type Affine,
  affineOf,
  IDENTITY,
  inverse,
  placement,
  product,
  times,
  turnRows,
  turnsOf,
} from "./placing";
import { add, cross, dot, length, normalize, scale, sub, type Vector } from "./vectors";

const DEGREE = Math.PI / 180;
/** Cosine beyond which two directions are taken to be the same. */
const SAME_WAY = 0.98;

export interface FrameInScene {
  middle: Vector;
  /** From the middle to the right edge, and to the upper one. */
  right: Vector;
  up: Vector;
}

type Stood = Pick<Scene, "parts" | "part_groups" | "asset">;

const unitOf = ([a, b, c]: Vector[]) => Math.cbrt(Math.abs(dot(a!, cross(b!, c!))));

/** The map from a part's own space, its unit made metres, to the scene: its unit here, or the one that its file has. */
function standing(key: string, scene: Stood, whose: "here" | "file"): Affine | null {
  const part = scene.parts[key];
  if (!part) return null;
  const own = affineOf(part.keys[0]?.matrix ?? part.matrix);
  const over = placement(part, scene);
  const linear = product(over.rows, own.rows);
  const file = unitOf(own.rows) * (part.form ? 1 : (scene.asset?.scale ?? 1));
  const unit = whose === "here" ? unitOf(linear) : file;
  if (!(Math.min(unit, unitOf(linear)) > 1e-12)) return null;
  const rows = linear.map((row) => scale(row, 1 / unit));
  return { rows, shift: add(times(over.rows, own.shift), over.shift) };
}

const unit = (direction: Vector, otherwise: Vector) =>
  length(direction) > 1e-9 ? normalize(direction) : otherwise;

/** Axes of a decal in the space of its part, before it is turned: to its right, up, towards whoever reads it. */
function axesOf(decal: Decal): [Vector, Vector, Vector] {
  const z = unit(decal.facing as Vector, [0, 0, 1]);
  let upright = unit(decal.upright as Vector, [0, 1, 0]);
  if (Math.abs(dot(upright, z)) > SAME_WAY) {
    const others: Vector[] = [
      [0, 0, -1],
      [1, 0, 0],
    ];
    upright = others.sort((a, b) => Math.abs(dot(a, z)) - Math.abs(dot(b, z)))[0]!;
  }
  const x = normalize(cross(upright, z));
  return [x, cross(z, x), z];
}

/** The frame of a decal in the scene; null where the part that carries it is gone. `tall` is its height, in widths. */
export function frameOf(decal: Decal, tall: number, scene: Stood): FrameInScene | null {
  const carrier = decal.parts.find((key) => scene.parts[key]);
  const stands = carrier === undefined ? null : standing(carrier, scene, "file");
  if (!stands) return null;
  const [a, b, d] = stands.rows as [Vector, Vector, Vector];
  const [own, y] = axesOf(decal);
  const x = scale(own, dot(a, cross(b, d)) < 0 ? -1 : 1);
  const [c, s] = [Math.cos(decal.turn * DEGREE), Math.sin(decal.turn * DEGREE)];
  const across = add(scale(x, c), scale(y, s));
  const upwards = sub(scale(y, c), scale(x, s));
  return {
    middle: add(times(stands.rows, decal.middle as Vector), stands.shift),
    right: scale(times(stands.rows, across), decal.width / 2),
    up: scale(times(stands.rows, upwards), (decal.width / 2) * tall * decal.stretch),
  };
}

/** Corners of a frame: lower left, lower right, upper right, upper left. */
export const cornersOf = ({ middle, right, up }: FrameInScene): Vector[] => [
  sub(sub(middle, right), up),
  sub(add(middle, right), up),
  add(add(middle, right), up),
  add(sub(middle, right), up),
];

/** A point of the picture, in pixels, from the middle of a frame: an angle and a distance. */
export const polar = (from: readonly [number, number], x: number, y: number) => ({
  // The picture's y runs downwards.
  angle: Math.atan2(from[1] - y, x - from[0]) / DEGREE,
  distance: Math.hypot(x - from[0], y - from[1]),
});

/** An angle brought within ±180°. */
export const within = (angle: number) => angle - 360 * Math.round(angle / 360);

type Placement = NonNullable<Scene["materials"][string]["inputs"]["base_color"]>["placement"];

/** The frame of a placement in metres on a part: one repeat of what it lays, about the middle of that. */
export function frameOfPlacement(placement: Placement, part: string, scene: Stood): FrameInScene | null {
  const stands = placement.space === "scene" ? IDENTITY : standing(part, scene, "here");
  if (!stands || placement.kind === "uv") return null;
  const rows = turnRows(placement.turn_x, placement.turn_y, placement.turn_z);
  const column = (i: number) => rows.map((row) => row[i]!) as Vector;
  return {
    middle: add(times(stands.rows, placement.offset as Vector), stands.shift),
    right: scale(times(stands.rows, column(0)), placement.size / 2),
    up: scale(times(stands.rows, column(1)), (placement.size / 2) * placement.ratio),
  };
}

/** A point of the scene in the space that a placement is in. */
export function inSpaceOf(placement: Placement, part: string, scene: Stood, point: Vector): Vector | null {
  if (placement.space === "scene") return point;
  const stands = standing(part, scene, "here");
  if (!stands) return null;
  const back = inverse(stands);
  return add(times(back.rows, point), back.shift);
}

/** Turns [degrees] of a placement after it is turned about its own depth, counterclockwise as it is seen. */
export function turnedPlacement(placement: Placement, by: number): Vector {
  const rows = turnRows(placement.turn_x, placement.turn_y, placement.turn_z);
  return turnsOf(product(rows, turnRows(0, 0, by))).map((v) => Number(v.toFixed(4))) as Vector;
}
