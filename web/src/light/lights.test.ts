import { describe, expect, it } from "vitest";
import { fields } from "../api/fields.gen";
import { extentsOf, freeKey, KINDS, modelOf, newLight, sizesOf, unitsOf } from "./lights";

describe("lights", () => {
  it("measures only surfaces in cd/m², and distant light only where it falls", () => {
    expect(unitsOf("rectangle")).toContain("cd/m²");
    expect(unitsOf("spot")).not.toContain("cd/m²");
    expect(unitsOf("directional")).toEqual(["lx"]);
  });

  it("gives every kind a unit that it can have", () => {
    for (const kind of KINDS) {
      expect(unitsOf(kind)[0]).toBe(newLight(kind, "New").unit);
    }
  });

  it("offers a kind the sizes that it has, and makes it with all of them", () => {
    for (const kind of KINDS) {
      for (const name of sizesOf(kind)) {
        expect(fields[modelOf(kind)]).toHaveProperty(name);
        expect(newLight(kind, "New")).toHaveProperty(name);
      }
    }
    expect(newLight("point", "New")).not.toHaveProperty("width");
    expect(extentsOf("tube")).toEqual(["length", "radius"]);
  });

  it("finds a key that is free", () => {
    expect(freeKey([])).toBe("light-1");
    expect(freeKey(["light-1", "light-3"])).toBe("light-2");
  });
});
