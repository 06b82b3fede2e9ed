import { describe, expect, it } from "vitest";
import { type CurvePoint, pathOf, withEnds, withNew, withPoint } from "./curve";

const POINTS: CurvePoint[] = [
  [0.2, 0.3],
  [0.5, 0.6],
  [0.8, 0.7],
];

describe("points of a curve", () => {
  it("keep their order, and of one that never falls their heights", () => {
    expect(withPoint(POINTS, 1, [0.9, 0.1], true)[1]).toEqual([0.796, 0.3]);
    expect(withPoint(POINTS, 1, [0.1, 0.9], false)[1]).toEqual([0.204, 0.9]);
    expect(withPoint(POINTS, 2, [2, 2], true)[2]).toEqual([1, 1]);
  });

  it("are added between the others, and not on them", () => {
    expect(withNew(POINTS, [0.6, 0.65], true)).toEqual({
      points: [POINTS[0], POINTS[1], [0.6, 0.65], POINTS[2]],
      number: 2,
    });
    expect(withNew(POINTS, [0.501, 0.2], true)).toBeNull();
  });

  it("end where a curve ends by itself", () => {
    expect(withEnds([], null)).toEqual([
      [0, 0],
      [1, 1],
    ]);
    expect(withEnds([[0.5, 0.9]], 0.5)).toEqual([
      [-0.5, 0.9],
      [0.5, 0.9],
      [1.5, 0.9],
    ]);
  });

  it("are joined by a line that stays between them", () => {
    const path = pathOf(withEnds([[0.5, 0.5]], null), 100, 100);
    expect(path).toBe(
      "M 0.00 100.00 C 16.67 83.33 33.33 66.67 50.00 50.00 C 66.67 33.33 83.33 16.67 100.00 0.00",
    );
    // A flat stretch has no slope at its ends: the line does not rise above it.
    expect(
      pathOf(
        [
          [0, 0],
          [0.5, 0.5],
          [1, 0.5],
        ],
        100,
        100,
      ),
    ).toContain("66.67 50.00");
  });
});
