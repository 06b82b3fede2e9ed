import { describe, expect, it } from "vitest";
import { fitFactor, magnified, placeOf, shifted } from "./layout";

const pane = { width: 800, height: 600 };
const full = { width: 1600, height: 1000 };

describe("the picture in its pane", () => {
  it("is whole and in the middle", () => {
    expect(fitFactor(pane, full)).toBe(0.5);
    expect(placeOf(pane, full, null)).toEqual({ left: 0, top: 50, width: 800, height: 500 });
  });

  it("keeps the point under the pointer when it is magnified", () => {
    const share = (place: ReturnType<typeof placeOf>) => [
      (500 - place.left) / place.width,
      (200 - place.top) / place.height,
    ];
    const before = share(placeOf(pane, full, null));
    const zoomed = magnified(pane, full, null, 8, 500, 200)!;
    const after = share(placeOf(pane, full, zoomed));
    expect(after[0]).toBeCloseTo(before[0]!, 9);
    expect(after[1]).toBeCloseTo(before[1]!, 9);
    expect(zoomed.factor).toBe(4);
  });

  it("goes back to the whole, and never past 64 times", () => {
    expect(magnified(pane, full, { factor: 0.6, x: 0.5, y: 0.5 }, 0.5, 0, 0)).toBeNull();
    expect(magnified(pane, full, { factor: 60, x: 0.5, y: 0.5 }, 2, 400, 300)?.factor).toBe(64);
  });

  it("follows the hand", () => {
    const moved = shifted(full, { factor: 2, x: 0.5, y: 0.5 }, -320, 0);
    expect(moved.x).toBeCloseTo(0.6, 9);
  });
});
