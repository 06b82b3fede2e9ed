import { expect, test } from "vitest";
import { half } from "./TwoPictures";

/** Whether a point of the frame (in shares) is within a polygon of the form that CSS has. */
function isWithin(polygon: string, x: number, y: number): boolean {
  const corners = [...polygon.matchAll(/(-?[\d.]+)% (-?[\d.]+)%/g)].map(
    ([, a, b]) => [Number(a) / 100, Number(b) / 100] as const,
  );
  const sides = corners.map(([ax, ay], i) => {
    const [bx, by] = corners[(i + 1) % corners.length]!;
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax);
  });
  return sides.every((side) => side >= 0) || sides.every((side) => side <= 0);
}

test("an upright line has its second picture on the right", () => {
  expect(isWithin(half(0.5, 0), 0.6, 0.5)).toBe(true);
  expect(isWithin(half(0.5, 0), 0.4, 0.5)).toBe(false);
  expect(isWithin(half(0.25, 0), 0.3, 0.9)).toBe(true);
});

test.each([0, 30, 45, -60, 90])("at %s degrees the two ends show all of one picture", (angle) => {
  for (const [x, y] of [
    [0.02, 0.02],
    [0.98, 0.02],
    [0.02, 0.98],
    [0.98, 0.98],
  ] as const) {
    expect(isWithin(half(-0.01, angle), x, y)).toBe(true);
    expect(isWithin(half(1.01, angle), x, y)).toBe(false);
  }
});
