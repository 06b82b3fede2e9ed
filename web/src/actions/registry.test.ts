import { describe, expect, it } from "vitest";
import { found } from "./Palette";
import { action, actions, hint } from "./registry";

describe("the action registry", () => {
  it("names every action once and gives no key twice", () => {
    expect(new Set(actions.map((a) => a.id)).size).toBe(actions.length);
    const keys = actions.flatMap((a) => a.keys.split(", ")).filter(Boolean);
    expect(new Set(keys).size).toBe(keys.length);
  });

  it("makes hints that a person can read", () => {
    expect(hint("redo")).toBe("Redo (Ctrl+Shift+Z)");
    expect(hint("run")).toBe("Run or hold the proof (Space)");
    expect(() => action("fly")).toThrow("no action");
  });
});

describe("the palette", () => {
  it("finds actions by words of their names, in any order", () => {
    expect(found("mesh lines").map((a) => a.id)).toEqual(["wire"]);
    expect(found("").length).toBe(actions.length);
    expect(found("no such thing")).toEqual([]);
  });
});
