import { describe, expect, it } from "vitest";
import { freeKey, KINDS, type LightKind, newLight, sizesOf, unitsOf } from "./lights";

describe("lights", () => {
  it("measures only surfaces in cd/m², and distant light only where it falls", () => {
    expect(unitsOf("rectangle")).toContain("cd/m²");
    expect(unitsOf("spot")).not.toContain("cd/m²");
    expect(unitsOf("directional")).toEqual(["lx"]);
  });

  it("gives every kind a unit that it can have", () => {
    for (const kind of Object.keys(KINDS) as LightKind[]) {
      expect(unitsOf(kind)).toContain(newLight(kind, "New").unit);
      expect(sizesOf(kind)).toBeDefined();
    }
  });

  it("finds a key that is free", () => {
    expect(freeKey([])).toBe("light-1");
    expect(freeKey(["light-1", "light-3"])).toBe("light-2");
  });
});
