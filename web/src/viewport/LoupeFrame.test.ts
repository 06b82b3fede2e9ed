import { describe, expect, it } from "vitest";
import { adjusted } from "./LoupeFrame";

describe("the loupe", () => {
  it("moves whole and stays in the picture", () => {
    const moved = adjusted([0.2, 0.2, 0.4, 0.6], "whole", 0.9, -0.9);
    for (const [i, v] of [0.8, 0, 1, 0.4].entries()) expect(moved[i]).toBeCloseTo(v, 9);
  });

  it("is resized by its corners, never to nothing", () => {
    expect(adjusted([0.2, 0.2, 0.4, 0.6], ["right", "bottom"], 0.1, 0.9)).toEqual([
      0.2,
      0.2,
      expect.closeTo(0.5, 9),
      1,
    ]);
    const least = adjusted([0.2, 0.2, 0.4, 0.6], ["left", "top"], 0.9, 0);
    expect(least[0]).toBeLessThan(least[2]);
  });
});
