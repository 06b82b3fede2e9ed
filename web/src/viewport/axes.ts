/** The axes of a picture, as `lantern/scene/framing.py` has them: +Y up, roll clockwise as who looks through it has it. */
import { add, cross, dot, length, normalize, scale, sub, type Vector } from "./vectors";

export interface Axes {
  right: Vector;
  up: Vector;
  backwards: Vector;
  /** From the camera to its target [m]. */
  reach: number;
}

interface Seen {
  position: readonly number[];
  target: readonly number[];
  /** Degrees. */
  roll: number;
}

const RADIANS = Math.PI / 180;

export function axesOf({ position, target, roll }: Seen): Axes {
  const offset = sub(position as Vector, target as Vector);
  const reach = length(offset);
  const backwards = scale(offset, 1 / reach);
  const [right, up] = level(backwards);
  const [c, s] = [Math.cos(roll * RADIANS), Math.sin(roll * RADIANS)];
  return {
    right: sub(scale(right, c), scale(up, s)),
    up: add(scale(up, c), scale(right, s)),
    backwards,
    reach,
  };
}

/** Right and up of a camera without roll; straight down looks with -Z up. */
function level(backwards: Vector): [Vector, Vector] {
  const reference: Vector = Math.abs(backwards[1]) > 0.99999 ? [0, 0, -Math.sign(backwards[1])] : [0, 1, 0];
  const right = normalize(cross(reference, backwards));
  return [right, cross(backwards, right)];
}

/** Roll [°] of a camera that looks against `backwards` and has what is on its right there. */
export function rollOf(backwards: Vector, right: Vector): number {
  const [levelRight, levelUp] = level(backwards);
  return Math.atan2(-dot(right, levelUp), dot(right, levelRight)) / RADIANS;
}

/** A vector turned about a unit axis by an angle [rad], against the clock for who looks against the axis. */
export function turned(vector: Vector, axis: Vector, angle: number): Vector {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const along = scale(axis, dot(axis, vector) * (1 - c));
  return add(add(scale(vector, c), scale(cross(axis, vector), s)), along);
}
