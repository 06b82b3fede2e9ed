import { expect, test } from "vitest";
import { GUIDES, type GuideKind, linesOf } from "./guides";

test("every guide has lines within the frame", () => {
  for (const kind of Object.keys(GUIDES) as GuideKind[]) {
    const lines = linesOf([kind]);
    expect(lines.length).toBeGreaterThan(0);
    for (const place of lines.flat()) expect(place >= 0 && place <= 1).toBe(true);
  }
  expect(linesOf([])).toEqual([]);
});

test("thirds divide the frame evenly", () => {
  expect(linesOf(["thirds"]).map(([x1]) => x1)).toEqual([1 / 3, 2 / 3, 0, 0]);
});
