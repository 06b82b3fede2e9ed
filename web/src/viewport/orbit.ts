/** Moving the camera by hand: pure functions from a camera to a camera. Lengths in metres, angles in radians, +Y up. */
import { fields, lenses } from "../api/fields.gen";
import type { Camera } from "../api/types";
import { axesOf, rollOf, turned } from "./axes";
import { add, length, normalize, scale, sub, type Vector } from "./vectors";

const rounded = (a: Vector): Vector => a.map((v) => Number(v.toFixed(6))) as Vector;

/** Closest to straight up or down that an orbit goes: beyond it the picture would flip. */
const STEEPEST = Math.PI / 2 - 0.01;
const NEAREST = 1e-4;
const { minimum: SHORTEST_LENS, maximum: LONGEST_LENS } = fields.Camera.focal_length;

const offset = (camera: Camera) => sub(camera.position as Vector, camera.target as Vector);

/** Turn about the target by `right` and `up`, the horizon as it is. */
export const orbit = (camera: Camera, right: number, up: number): Camera =>
  orbitAbout(camera, camera.target as Vector, right, up);

/** Turn about a point of the scene by `right` and `up`: what is there stays where it is in the picture. */
export function orbitAbout(camera: Camera, about: Vector, right: number, up: number): Camera {
  const backwards = offset(camera);
  const elevation = Math.asin(backwards[1] / length(backwards));
  const rise = Math.min(Math.max(elevation + up, -STEEPEST), STEEPEST) - elevation;
  const level = Math.hypot(backwards[0], backwards[2]);
  const side: Vector = level > 1e-9 ? [backwards[2] / level, 0, -backwards[0] / level] : [1, 0, 0];
  const around = (v: Vector) => turned(turned(v, side, -rise), [0, 1, 0], right);
  return carried(camera, about, around);
}

/** Turn freely about a point, about the picture's own axes: the horizon may tilt, and nothing ends at the pole. */
export function tumble(camera: Camera, about: Vector, right: number, up: number): Camera {
  const axes = axesOf(camera);
  const around = (v: Vector) => turned(turned(v, axes.right, -up), axes.up, right);
  const after = carried(camera, about, around);
  const backwards = normalize(offset(after));
  return { ...after, roll: Number(rollOf(backwards, around(axes.right)).toFixed(4)) };
}

function carried(camera: Camera, about: Vector, around: (v: Vector) => Vector): Camera {
  const moved = (point: readonly number[]) => rounded(add(about, around(sub(point as Vector, about))));
  return { ...camera, position: moved(camera.position), target: moved(camera.target) };
}

/** Turn the camera about its view, clockwise by `angle` [rad] as who looks through it has it. */
export function roll(camera: Camera, angle: number): Camera {
  const next = camera.roll + (angle * 180) / Math.PI;
  return { ...camera, roll: Number((next - 360 * Math.round(next / 360)).toFixed(3)) };
}

/** Look elsewhere from where the camera stands. */
export const lookAround = (camera: Camera, right: number, up: number): Camera =>
  orbitAbout(camera, camera.position as Vector, right, up);

/** Walk: so many metres ahead and to the right on the level, and up. What is looked at goes with it. */
export function walk(camera: Camera, ahead: number, right: number, up: number): Camera {
  const [x, , z] = offset(camera);
  const size = Math.hypot(x, z);
  // Who looks straight down walks to where the picture's upper edge is.
  const forward: Vector = size > 1e-6 ? [-x / size, 0, -z / size] : axesOf(camera).up;
  const side: Vector = [-forward[2], 0, forward[0]];
  const step = add(add(scale(forward, ahead), scale(side, right)), [0, up, 0]);
  const moved = (point: readonly number[]) => rounded(add(point as Vector, step));
  return { ...camera, position: moved(camera.position), target: moved(camera.target) };
}

/** Shift camera and target by shares of the picture's width; positive moves the camera right and up. */
export function pan(camera: Camera, right: number, up: number): Camera {
  const axes = axesOf(camera);
  const width = (axes.reach * camera.sensor_width) / camera.focal_length;
  const shift = add(scale(axes.right, right * width), scale(axes.up, up * width));
  return {
    ...camera,
    position: rounded(add(camera.position as Vector, shift)),
    target: rounded(add(camera.target as Vector, shift)),
  };
}

/** Move towards the target (factor below 1) or away from it; the focus follows the target. */
export function dolly(camera: Camera, factor: number): Camera {
  const backwards = offset(camera);
  const before = length(backwards);
  const after = Math.max(before * factor, NEAREST);
  const position = rounded(add(camera.target as Vector, scale(backwards, after / before)));
  const focus = Math.max(camera.focus_distance + after - before, 0.001);
  return { ...camera, position, focus_distance: Number(focus.toFixed(6)) };
}

/** Change the focal length: the camera stays where it is. */
export function zoom(camera: Camera, factor: number): Camera {
  const focal = Math.min(Math.max(camera.focal_length * factor, SHORTEST_LENS), LONGEST_LENS);
  return { ...camera, focal_length: Number(focal.toFixed(3)) };
}

/** Dolly with the framing kept: what the target's plane shows stays, and the perspective changes. */
export function dollyFramed(camera: Camera, factor: number): Camera {
  const zoomed = zoom(camera, factor);
  return { ...dolly(camera, zoomed.focal_length / camera.focal_length), focal_length: zoomed.focal_length };
}

/** The next longer lens of the series, or the next shorter; for another width of the sensor as much longer or shorter. */
export function otherLens(camera: Camera, step: 1 | -1): Camera {
  const size = camera.sensor_width / 36;
  const found = lenses.map((lens) => Number((lens * size).toFixed(2)));
  const near = 0.005 * camera.focal_length;
  const next =
    step > 0
      ? found.find((lens) => lens > camera.focal_length + near)
      : found.findLast((lens) => lens < camera.focal_length - near);
  return zoom(camera, (next ?? camera.focal_length) / camera.focal_length);
}

/** The shorter way from one angle [°] to another, in whole turns. */
const shorterTurn = (from: number, to: number) => {
  const turns = (to - from) / 360;
  return turns - Math.round(turns);
};

/** A camera on the way from one to another, `share` of it: around the target, not through what stands there. */
export function between(from: Camera, to: Camera, share: number): Camera {
  const [a, b] = [offset(from), offset(to)];
  const [near, far] = [length(a), length(b)];
  const angles = (v: Vector, reached: number) => [Math.atan2(v[0], v[2]), Math.asin(v[1] / reached)] as const;
  const [[turn, rise], [after, risen]] = [angles(a, near), angles(b, far)];
  const whole = 2 * Math.PI;
  const shorter = whole * shorterTurn((turn / whole) * 360, (after / whole) * 360);
  const mixed = (x: number, y: number) => x + (y - x) * share;
  const [azimuth, elevation] = [turn + shorter * share, mixed(rise, risen)];
  const distance = near * (far / near) ** share;
  const target = (from.target as Vector).map((v, i) => mixed(v, to.target[i]!)) as Vector;
  const level = distance * Math.cos(elevation);
  const away: Vector = [level * Math.sin(azimuth), distance * Math.sin(elevation), level * Math.cos(azimuth)];
  return {
    ...to,
    target: rounded(target),
    position: rounded(add(target, away)),
    focal_length: Number(mixed(from.focal_length, to.focal_length).toFixed(3)),
    focus_distance: Number(mixed(from.focus_distance, to.focus_distance).toFixed(6)),
    roll: Number((from.roll + 360 * shorterTurn(from.roll, to.roll) * share).toFixed(4)),
  };
}

/**
 * Shares of the frame's height, from its top, at which what is as high as the eye lies on its left and right edge; null
 * for a parallel view, and where it stands upright in the picture.
 */
export function horizonOf(camera: Camera, shape: number): [number, number] | null {
  if (camera.projection === "orthographic") return null;
  const { right, up, backwards } = axesOf(camera);
  if (Math.abs(up[1]) < 1e-3) return null;
  const half = camera.sensor_width / 2 / camera.focal_length;
  const [aside, above] = [camera.shift_x / camera.focal_length, camera.shift_y / camera.focal_length];
  const at = (x: number) => {
    const y = (backwards[1] - (x + aside) * right[1]) / up[1] - above;
    return 0.5 - (y * shape) / half / 2;
  };
  return [at(-half), at(half)];
}

/** Distance [m] from the camera to its target. */
export const reach = (camera: Camera) => length(offset(camera));
