import { describe, expect, it } from "vitest";
import type { Light } from "../api/types";
import { aim, beam, outline, solidLines } from "./lightShapes";
import { length, sub, type Vector } from "./vectors";

const light = (fields: object) =>
  ({ position: [0, 2, 0], target: [0, 0, 0], roll: 0, ...fields }) as unknown as Light;
const VIEW: Vector = [0, 0, 1];
const apart = (points: Vector[]) => points.map((p) => length(sub(p, [0, 2, 0])));

describe("outlines of lights", () => {
  it("looks where it aims, upright, and turned by its roll", () => {
    const [across, along, forward] = aim([0, 0, 0], [0, 0, -5], 0);
    expect(forward).toEqual([0, 0, -1]);
    expect(across).toEqual([1, 0, 0]);
    expect(along).toEqual([0, 1, 0]);
    const [turned] = aim([0, 0, 0], [0, 0, -5], 90);
    for (const [i, v] of [0, 1, 0].entries()) expect(turned[i]).toBeCloseTo(v, 9);
  });

  it("gives a rectangle its corners and a disk its rim, across the aim", () => {
    const [corners] = outline(light({ kind: "rectangle", width: 0.6, height: 0.8 }), VIEW);
    for (const d of apart(corners!)) expect(d).toBeCloseTo(0.5, 9);
    for (const corner of corners!) expect(corner[1]).toBeCloseTo(2, 9);
    const [rim] = outline(light({ kind: "disk", radius: 0.3 }), VIEW);
    for (const d of apart(rim!)) expect(d).toBeCloseTo(0.3, 9);
  });

  it("shows a sphere as a circle whichever way one looks", () => {
    for (const view of [VIEW, [0, 1, 0], [0.6, 0, 0.8]] as Vector[]) {
      const [rim] = outline(light({ kind: "sphere", radius: 0.2 }), view);
      for (const d of apart(rim!)) expect(d).toBeCloseTo(0.2, 9);
    }
  });

  it("opens a spot by its cone", () => {
    const [rim] = outline(light({ kind: "spot", cone: 60 }), VIEW);
    for (const point of rim!) {
      const down = 2 - point[1];
      expect(Math.hypot(point[0], point[2]) / down).toBeCloseTo(Math.tan(Math.PI / 6), 9);
    }
  });

  it("has nothing to draw of a point", () => {
    expect(outline(light({ kind: "point" }), VIEW)).toEqual([]);
  });
});

describe("beams and solids of lights", () => {
  it("points an area light to what it aims at, and a point to nothing", () => {
    const [line] = beam(light({ kind: "rectangle", width: 1, height: 1 }));
    expect(line).toEqual([
      [0, 2, 0],
      [0, 0, 0],
    ]);
    expect(beam(light({ kind: "point" }))).toEqual([]);
  });

  it("stands a distribution on the light's axis, as large as its intensity", () => {
    const straight: Vector[] = [
      [0, 0, 1],
      [0.5, 0, 0.5],
      [0, 0, 0],
    ];
    const [first] = solidLines(light({ kind: "point" }), [straight]);
    expect(first![0]![1]).toBeLessThan(2);
    expect(apart(first!)[0]).toBeCloseTo(0.7, 9);
    expect(apart(first!)[1]).toBeCloseTo(0.7 * Math.SQRT1_2, 9);
  });
});
