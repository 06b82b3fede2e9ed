import { describe, expect, it } from "vitest";
import { leaning, meanOf, placeOf, type Triple, withMean } from "./wheel";

describe("a wheel", () => {
  it("says the numbers again that it was told", () => {
    const values: Triple = [1.1, 0.95, 0.95];
    const [x, y] = placeOf(values, 0.5);
    expect(x).toBeCloseTo(0);
    expect(y).toBeGreaterThan(0);
    const again = leaning(meanOf(values), [x, y], 0.5, 0);
    for (const [i, value] of values.entries()) expect(again[i]).toBeCloseTo(value, 3);
  });

  it("keeps the lean when all grow, and never falls below the least", () => {
    expect(withMean([1.1, 0.95, 0.95], 1.2, 0)).toEqual([1.3, 1.15, 1.15]);
    expect(Math.min(...leaning(0.1, [0, -1], 0.5, 0.01))).toBe(0.01);
  });

  it("ends at its edge", () => {
    expect(leaning(1, [0, 5], 0.5, 0)).toEqual(leaning(1, [0, 1], 0.5, 0));
  });
});
