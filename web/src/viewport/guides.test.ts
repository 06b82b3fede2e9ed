import { expect, test } from "vitest";
import type { Camera } from "../api/types";
import { GUIDES, type GuideKind, linesOf, MARGIN } from "./guides";

const camera = {
  position: [0, 1, 2],
  target: [0, 0.9, 0],
  projection: "perspective",
  focal_length: 50,
  sensor_width: 36,
  shift_x: 0,
  shift_y: 0,
  roll: 0,
} as unknown as Camera;

test("every guide has lines within the frame", () => {
  for (const kind of Object.keys(GUIDES) as GuideKind[]) {
    const lines = linesOf([kind], camera, 1.5, MARGIN);
    expect(lines.length).toBeGreaterThan(0);
    for (const place of lines.flat()) expect(place >= 0 && place <= 1).toBe(true);
  }
  expect(linesOf([], camera, 1.5, MARGIN)).toEqual([]);
});

test("thirds divide the frame evenly", () => {
  expect(linesOf(["thirds"], camera, 1.5, MARGIN).map(([x1]) => x1)).toEqual([1 / 3, 2 / 3, 0, 0]);
});

test("margins are as wide on all sides, whatever the shape of the frame", () => {
  const [top, right] = linesOf(["margins"], camera, 2, 10);
  expect(top![0]! * 2).toBeCloseTo(0.1);
  expect(right![1]).toBeCloseTo(0.1);
});

test("the level of the eye lies in the middle for a level camera, and above it for one that looks down", () => {
  const at = (changes: object) =>
    linesOf(["level"], { ...camera, ...changes } as Camera, 1.5, MARGIN)[0]?.[1];
  expect(at({ target: [0, 1, 0] })).toBeCloseTo(0.5);
  // 0.05 down over a half height of 0.24.
  expect(at({})).toBeCloseTo(0.5 - 0.05 / 0.48);
  expect(at({ target: [0, 1, 0], shift_y: 6 })).toBeCloseTo(0.5 + 0.12 / 0.48);
  expect(at({ target: [0, -4, 0] })).toBeUndefined();
});
