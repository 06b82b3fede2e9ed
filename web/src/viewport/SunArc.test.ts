import { expect, test } from "vitest";
import { hourAt } from "./SunArc";

const WAY = [
  { hour: 8, x: 0, y: 100 },
  { hour: 12, x: 100, y: 0 },
  { hour: 16, x: 200, y: 100 },
];

test("the hour is that of the nearest place on the way", () => {
  expect(hourAt(WAY, 100, -50)).toBe(12);
  expect(hourAt(WAY, 50, 50)).toBe(10);
  expect(hourAt(WAY, 60, 40)).toBeCloseTo(10.4);
  expect(hourAt(WAY, 900, 300)).toBe(16);
});
