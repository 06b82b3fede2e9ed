import { describe, expect, it } from "vitest";
import type { PictureCamera } from "../socket/frame";
import { projection } from "./projection";
import { add, scale } from "./vectors";

const camera: PictureCamera = {
  position: [0.4, 0.5, 2],
  target: [0.1, 0.2, -0.3],
  focal_length: 50,
  sensor_width: 36,
  shift_x: 2,
  shift_y: -3,
  distortion: 0.05,
  roll: 0,
  orthographic: false,
};

describe("projection", () => {
  for (const orthographic of [false, true])
    it(`finds a point again that lies on a ray (orthographic ${orthographic})`, () => {
      const lens = projection({ ...camera, orthographic }, 1.6);
      for (const [x, y] of [
        [0.5, 0.5],
        [0.1, 0.9],
        [0.83, 0.2],
      ] as const) {
        const { origin, direction } = lens.ray(x, y);
        const found = lens.project(add(origin, scale(direction, 1.7)));
        expect(found.x).toBeCloseTo(x, 5);
        expect(found.y).toBeCloseTo(y, 5);
      }
    });

  it("puts the target in the middle of an unshifted picture", () => {
    const lens = projection({ ...camera, shift_x: 0, shift_y: 0 }, 1.6);
    const { x, y, depth } = lens.project(camera.target);
    expect([x, y]).toEqual([expect.closeTo(0.5, 6), expect.closeTo(0.5, 6)]);
    expect(depth).toBeCloseTo(Math.hypot(0.3, 0.3, 2.3), 6);
  });

  it("has a width that the sensor and the lens give", () => {
    const lens = projection({ ...camera, distortion: 0 }, 1.6);
    expect(lens.widthAt(2)).toBeCloseTo((2 * 36) / 50, 9);
  });
});
