import { describe, expect, it } from "vitest";
import { fittingScale, read, written } from "./reading";

const metres = { word: "m", factor: 1 };
const none = { word: "", factor: 1 };

describe("reading", () => {
  it.each([
    ["50 cm", "m", 0.5],
    ["50cm", "m", 0.5],
    ["2.3 mm", "m", 0.0023],
    ['10"', "m", 0.254],
    ["1,000", "m", 1000],
    ["12,345,678", "", 12345678],
    ["1,5", "m", 1.5],
    ["3/4", "", 0.75],
    ["1/125", "s", 1 / 125],
    ["8 ms", "s", 0.008],
    ["f/2.8", "f/", 2.8],
    ["2.8", "f/", 2.8],
    ["(1+2)*0.2", "", 0.6],
    ["-3.", "EV", -3],
    ["1 stop", "EV", 1],
    ["5.6 kK", "K", 5600],
    ["2e3", "lm", 2000],
    ["1 klm", "lm", 1000],
  ])("%s in %s", (text, unit, value) => {
    expect(read(text, unit, none)).toEqual({ value: expect.closeTo(value, 9) });
  });

  it.each([
    ["+1 stop", "lm", 60],
    ["-1/3 EV", "×", 30 * 2 ** (-1 / 3)],
    ["−2 stops", "cd/m²", 7.5],
  ])("%s of 30 %s", (text, unit, value) => {
    expect(read(text, unit, none, 30)).toEqual({ value: expect.closeTo(value, 9) });
  });

  it("knows no stops of what is no light", () => {
    expect(read("+1 stop", "m", metres, 2)).toHaveProperty("problem");
  });

  it("takes a bare number in the unit that is shown", () => {
    expect(read("60", "m", { word: "mm", factor: 0.001 })).toEqual({ value: 0.06 });
    expect(read("60 cm", "m", { word: "mm", factor: 0.001 })).toEqual({ value: 0.6 });
  });

  it.each([
    ["50 kg", "“kg” is no unit here: use km, m, cm, mm, µm"],
    ["a lot", "“a lot” is no number"],
    ["", "A number is needed"],
    ["2+", "“2+” is no number"],
    ["(2+3", "“(2+3” cannot be worked out"],
    ["1..2", "“1..2” cannot be worked out"],
  ])("says what is wrong with %s", (text, problem) => {
    expect(read(text, "m", metres)).toEqual({ problem });
  });
});

describe("writing", () => {
  it.each([
    [0.002, "m", "2", "mm"],
    [0.0000023, "m", "2.3", "µm"],
    [0.05, "m", "50", "mm"],
    [0.9, "m", "0.9", "m"],
    [362.25, "m", "362.25", "m"],
    [12500, "m", "12.5", "km"],
    [-0.003, "m", "-3", "mm"],
    [0, "m", "0", "m"],
    [1e-9, "m", "0.001", "µm"],
    [5600, "K", "5600", "K"],
    [0.25, "", "0.25", ""],
  ])("%s %s as %s %s", (value, unit, text, word) => {
    const scale = fittingScale(value, unit);
    expect(scale.word).toBe(word);
    expect(written(value, scale, 0.001)).toBe(text);
  });
});

describe("small amounts", () => {
  it("are not written as nothing", () => {
    expect(written(0.00095, { word: "lm", factor: 1 }, 0.01)).toBe("0.00095");
    expect(written(0, { word: "lm", factor: 1 }, 0.01)).toBe("0");
    expect(written(16e6, { word: "lm", factor: 1 }, 0.01)).toBe("16000000");
  });
});
