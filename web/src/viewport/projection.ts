/** Where a point of the scene lies in a picture, and back: with the camera of that picture, as lantern/trace/lens.py. */
import type { PictureCamera } from "../socket/frame";
import { axesOf } from "./axes";
import { add, dot, normalize, scale, sub, type Vector } from "./vectors";

export interface Ray {
  origin: Vector;
  direction: Vector;
}

export interface Projection {
  /** Shares of the picture's width and height, and metres along the view. */
  project: (point: Vector) => { x: number; y: number; depth: number };
  ray: (x: number, y: number) => Ray;
  /** Metres a picture's width is at a depth along the view. */
  widthAt: (depth: number) => number;
  backwards: Vector;
}

/** `shape` is the picture's width over its height. */
export function projection(camera: PictureCamera, shape: number): Projection {
  const { right, up, backwards, reach } = axesOf(camera);
  const half = camera.sensor_width / (2 * camera.focal_length);
  const shiftX = camera.shift_x / camera.focal_length;
  const shiftY = camera.shift_y / camera.focal_length;
  const spreadAt = (depth: number) => (camera.orthographic ? reach : depth);
  const bent = (sx: number, sy: number) => 1 + (camera.distortion * (sx * sx + sy * sy)) / (half * half);
  return {
    backwards,
    widthAt: (depth) => 2 * half * spreadAt(depth),
    project: (point) => {
      const to = sub(point, camera.position);
      const depth = -dot(to, backwards);
      const spread = spreadAt(depth);
      const ideal = [dot(to, right) / spread - shiftX, dot(to, up) / spread - shiftY] as const;
      // The lens bends picture to ideal; its inverse is found by repeating the division.
      let [sx, sy] = ideal;
      for (let i = 0; i < 8; i++) {
        const k = bent(sx, sy);
        [sx, sy] = [ideal[0] / k, ideal[1] / k];
      }
      return { x: (sx / half + 1) / 2, y: (1 - (sy * shape) / half) / 2, depth };
    },
    ray: (x, y) => {
      let [sx, sy] = [(2 * x - 1) * half, ((1 - 2 * y) * half) / shape];
      const k = bent(sx, sy);
      [sx, sy] = [sx * k + shiftX, sy * k + shiftY];
      const aside = add(scale(right, sx), scale(up, sy));
      if (camera.orthographic)
        return { origin: add(camera.position, scale(aside, reach)), direction: scale(backwards, -1) };
      return { origin: camera.position, direction: normalize(sub(aside, backwards)) };
    },
  };
}

/** A line through points as the picture shows it; broken where it passes the camera. */
export function pathOf(points: Vector[], lens: Projection, place: { width: number; height: number }): string {
  let text = "";
  let isDown = false;
  for (const point of points) {
    const { x, y, depth } = lens.project(point);
    if (depth <= 0) {
      isDown = false;
      continue;
    }
    text += `${isDown ? "L" : "M"}${(x * place.width).toFixed(1)} ${(y * place.height).toFixed(1)}`;
    isDown = true;
  }
  return text;
}
