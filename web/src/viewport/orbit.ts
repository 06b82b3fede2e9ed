/** Moving the camera by hand: pure functions from a camera to a camera. Lengths in metres, angles in radians, +Y up. */
import { fields } from "../api/fields.gen";
import type { Camera } from "../api/types";
import { add, cross, length, normalize, scale, sub, type Vector } from "./vectors";

const rounded = (a: Vector): Vector => a.map((v) => Number(v.toFixed(6))) as Vector;

/** Closest to straight up or down that an orbit goes: beyond it the picture would flip. */
const STEEPEST = Math.PI / 2 - 0.01;
const NEAREST = 1e-4;
const { minimum: SHORTEST_LENS, maximum: LONGEST_LENS } = fields.Camera.focal_length;

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
  const level = Math.hypot(backwards[0], backwards[2]) > 1e-9;
  const side = normalize(cross(level ? [0, 1, 0] : [0, 0, -Math.sign(backwards[1])], backwards));
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

/** Change the focal length: the camera stays where it is. */
export function zoom(camera: Camera, factor: number): Camera {
  const focal = Math.min(Math.max(camera.focal_length * factor, SHORTEST_LENS), LONGEST_LENS);
  return { ...camera, focal_length: Number(focal.toFixed(3)) };
}

/** Distance [m] from the camera to its target. */
export const reach = (camera: Camera) => length(offset(camera));
