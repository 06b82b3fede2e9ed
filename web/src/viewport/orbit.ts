/** Moving the camera by hand: pure functions from a camera to a camera. Lengths in metres, angles in radians, +Y up. */
import type { Camera } from "../api/types";

type Vector = [number, number, number];

const sub = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const add = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const scale = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s];
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const length = (a: Vector) => Math.hypot(...a);
const normalize = (a: Vector) => scale(a, 1 / length(a));
const rounded = (a: Vector): Vector => a.map((v) => Number(v.toFixed(6))) as Vector;

/** Closest to straight up or down that an orbit goes: beyond it the picture would flip. */
const STEEPEST = Math.PI / 2 - 0.01;
const NEAREST = 1e-4;

const offset = (camera: Camera) => sub(camera.position as Vector, camera.target as Vector);

/** Turn about the target by `right` and `up`. */
export function orbit(camera: Camera, right: number, up: number): Camera {
  const [x, y, z] = offset(camera);
  const distance = length([x, y, z]);
  const azimuth = Math.atan2(x, z) + right;
  const elevation = Math.min(Math.max(Math.asin(y / distance) + up, -STEEPEST), STEEPEST);
  const level = distance * Math.cos(elevation);
  const turned: Vector = [
    level * Math.sin(azimuth),
    distance * Math.sin(elevation),
    level * Math.cos(azimuth),
  ];
  return { ...camera, position: rounded(add(camera.target as Vector, turned)) };
}

/** Shift camera and target by shares of the picture's width; positive moves the camera right and up. */
export function pan(camera: Camera, right: number, up: number): Camera {
  const backwards = offset(camera);
  const width = (length(backwards) * camera.sensor_width) / camera.focal_length;
  const side = normalize(cross([0, 1, 0], backwards));
  const above = normalize(cross(backwards, side));
  const shift = add(scale(side, right * width), scale(above, up * width));
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
