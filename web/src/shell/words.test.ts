import { describe, expect, it } from "vitest";
import { duration, percent, rate } from "./words";

describe("numbers as phrases", () => {
  it("keeps durations short", () => {
    expect([0.42, 12.6, 89, 600, 9000].map(duration)).toEqual(["0.4 s", "13 s", "89 s", "10 min", "2.5 h"]);
  });
  it("says rates and shares", () => {
    expect(rate(4_560_000)).toBe("4.6 Mrays/s");
    expect([0.031, 0.5].map(percent)).toEqual(["3.1 %", "50 %"]);
  });
});
