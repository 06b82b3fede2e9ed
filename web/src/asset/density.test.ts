import { describe, expect, it } from "vitest";
import { pieces } from "../api/fields.gen";
import { amount, countsOf } from "./Density";
import { PIECES } from "./set";

describe("how fine parts are", () => {
  it("is said in figures that can be read at a glance", () => {
    expect([999, 14_868, 499_999, 951_552, 1_250_000, 61e6].map(amount)).toEqual([
      "999",
      "14 868",
      "499 999",
      "952 thousand",
      "1.25 million",
      "61.0 million",
    ]);
  });

  it("says of proof and print only what differs", () => {
    const as = (proof: number, print: number) => countsOf({ brought: 12, proof, print, bytes: 1.56e6 });
    expect(as(12, 12)).toBe("12 triangles · 2 MB");
    expect(as(48, 48)).toBe("12 triangles, 48 in the proof · 2 MB");
    expect(as(12, 48)).toBe("12 triangles, 48 in the print · 2 MB");
    expect(as(48, 768)).toBe("12 triangles, 48 in the proof, 768 in the print · 2 MB");
    expect(countsOf({ brought: 1, proof: 1, print: 1, bytes: 3.2e9 })).toBe("1 triangle · 3.2 GB");
  });
});

describe("the pieces of a set", () => {
  it("are all offered, each once", () => {
    const offered = PIECES.flatMap(([, each]) => each);
    expect([...offered].sort()).toEqual(Object.keys(pieces).sort());
  });
});
