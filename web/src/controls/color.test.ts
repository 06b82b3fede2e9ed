import { describe, expect, it } from "vitest";
import type { Color } from "../api/types";
import { fromHex, fromKelvin, fromLch, toHex, toLch } from "./color";

describe("hex", () => {
  it("follows IEC 61966-2-1", () => {
    expect(fromHex("#808080")?.[0]).toBeCloseTo(0.21586, 5);
    expect(toHex([0.21586, 1, 0])).toBe("#80ff00");
    expect(fromHex("f00")).toEqual([1, 0, 0]);
    expect(fromHex("red")).toBeNull();
  });

  it("survives both ways", () => {
    for (const hex of ["#000000", "#c0ffee", "#123456", "#ffffff"]) expect(toHex(fromHex(hex)!)).toBe(hex);
  });
});

describe("OKLCH", () => {
  it("puts white and primaries where Ottosson's definition does", () => {
    const white = toLch([1, 1, 1]);
    expect(white.lightness).toBeCloseTo(1, 4);
    expect(white.chroma).toBeCloseTo(0, 4);
    const red = toLch([1, 0, 0]);
    expect(red.lightness).toBeCloseTo(0.62796, 3);
    expect(red.chroma).toBeCloseTo(0.25768, 3);
    expect(red.hue).toBeCloseTo(29.23, 1);
  });

  it("survives both ways", () => {
    const colors: Color[] = [
      [0.2, 0.4, 0.7],
      [0.9, 0.1, 0.05],
      [0.01, 0.02, 0.01],
    ];
    for (const color of colors)
      for (const [i, c] of fromLch(toLch(color)).entries()) expect(c).toBeCloseTo(color[i]!, 4);
  });
});

describe("kelvin", () => {
  it("is near white at 6504 K, warm below, blue above", () => {
    const day = fromKelvin(6504);
    expect(Math.min(...day)).toBeGreaterThan(0.93);
    const [red, green, blue] = fromKelvin(2700);
    expect(red).toBe(1);
    expect(red).toBeGreaterThan(green);
    expect(green).toBeGreaterThan(blue);
    const sky = fromKelvin(15000);
    expect(sky[2]).toBe(1);
  });
});
