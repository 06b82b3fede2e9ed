import { describe, expect, it } from "vitest";
import { evaluate, shown } from "./arithmetic";

describe("evaluate", () => {
  it.each([
    ["1.5", 1.5],
    ["1,5", 1.5],
    [".5", 0.5],
    ["24*2", 48],
    ["(100-20)/4", 20],
    ["-3+5", 2],
    ["2*-3", -6],
    ["8/2/2", 2],
    ["1e-3", 0.001],
    [" 7 ", 7],
  ])("%s is %d", (text, value) => expect(evaluate(text)).toBeCloseTo(value, 12));

  it.each(["", "abc", "1+", "(1", "1/0", "2**3", "alert(1)", "1 2x"])("refuses %s", (text) =>
    expect(evaluate(text)).toBeNull(),
  );
});

describe("shown", () => {
  it("has the digits that its step needs", () => {
    expect(shown(0.123456, 0.001)).toBe("0.123");
    expect(shown(85, 0.1)).toBe("85");
    expect(shown(1920, 1)).toBe("1920");
  });
});
