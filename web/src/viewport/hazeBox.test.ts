import { expect, test } from "vitest";
import { draggedBox, edgesOf, middleOf, SIDES } from "./hazeBox";
import type { Vector } from "./vectors";

const BOX = { low: [-1, 0, -1] as Vector, high: [1, 2, 1] as Vector };
const rayAt = (x: number) => ({ origin: [x, 1, 5] as Vector, direction: [0, 0, -1] as Vector });

test("a box has twelve edges and six sides with their middles", () => {
  expect(edgesOf(BOX)).toHaveLength(12);
  expect(SIDES.map((side) => middleOf(BOX, side))).toContainEqual([1, 1, 0]);
});

test("a side follows the hand along its axis, and never passes the other", () => {
  const right = { axis: 0, end: "high" } as const;
  expect(draggedBox(BOX, right, rayAt(1.5))).toEqual({ low: [-1, 0, -1], high: [1.5, 2, 1] });
  const thin = draggedBox(BOX, right, rayAt(-7));
  expect(thin.high[0]).toBeGreaterThan(-1);
  expect(thin.high[0]).toBeLessThan(-0.99);
});
