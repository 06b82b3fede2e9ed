import { describe, expect, it } from "vitest";
import { background, colorAt, type Stop, withColor, withoutStop, withPlace, withStop } from "./ramp";

const STOPS: Stop[] = [
  { at: 0.2, color: [0, 0, 0] },
  { at: 0.6, color: [1, 0, 0] },
  { at: 1, color: [1, 1, 0] },
];

describe("a ramp", () => {
  it("moves a stop up to its neighbours and no further", () => {
    expect(withPlace(STOPS, 1, 0.5)[1]!.at).toBe(0.5);
    expect(withPlace(STOPS, 1, 0.1)[1]!.at).toBe(0.2);
    expect(withPlace(STOPS, 1, 7)[1]!.at).toBe(1);
    expect(withPlace(STOPS, 0, -3)[0]!.at).toBe(0);
    expect(withPlace(STOPS, 2, 3)[2]!.at).toBe(1);
  });

  it("has the colour of a stop there, and a mixture between", () => {
    expect(colorAt(STOPS, 0)).toEqual([0, 0, 0]);
    expect(colorAt(STOPS, 0.4)[0]).toBeCloseTo(0.5);
    expect(colorAt(STOPS, 0.6)).toEqual([1, 0, 0]);
    expect(colorAt(STOPS.slice(0, 2), 0.9)).toEqual([1, 0, 0]);
  });

  it("takes a stop where it is put, or in the widest gap, and changes no colour by that", () => {
    const [there, number] = withStop(STOPS, 0.7);
    expect([number, there.length, there[2]!.at]).toEqual([2, 4, 0.7]);
    const [gap, middle] = withStop([...STOPS.slice(0, 1), ...STOPS.slice(2)], null);
    expect([middle, gap[1]!.at]).toEqual([1, 0.6]);
    expect(withStop(STOPS, 1)[1]).toBe(3);
    for (const at of [0.1, 0.3, 0.65, 0.9])
      for (const [i, v] of colorAt(there, at).entries()) expect(v).toBeCloseTo(colorAt(STOPS, at)[i]!);
  });

  it("changes a colour, and loses a stop", () => {
    expect(withColor(STOPS, 1, [0, 0, 1])[1]).toEqual({ at: 0.6, color: [0, 0, 1] });
    expect(withoutStop(STOPS, 1)).toEqual([STOPS[0], STOPS[2]]);
  });

  it("is drawn with steps, or with what lies between as light mixes", () => {
    expect(background(STOPS, "steps")).toContain("#000000 20%, #000000 60%, #ff0000 60%");
    expect(background(STOPS, "linear")).toContain("#bc0000 40%");
  });
});
