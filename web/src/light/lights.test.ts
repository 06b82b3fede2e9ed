import { describe, expect, it } from "vitest";
import { fields } from "../api/fields.gen";
import { extentsOf, KINDS, type LightKind, modelOf } from "./lights";

const unitsOf = (kind: LightKind) => Object.keys(fields[modelOf(kind)].unit.options);

describe("lights", () => {
  it("measures only surfaces in cd/m², and distant light only where it falls", () => {
    expect(unitsOf("rectangle")).toContain("cd/m²");
    expect(unitsOf("spot")).not.toContain("cd/m²");
    expect(unitsOf("directional")).toEqual(["lx"]);
  });

  it("scales a kind by the lengths that it has", () => {
    for (const kind of KINDS)
      for (const name of extentsOf(kind)) expect(fields[modelOf(kind)]).toHaveProperty(name);
    expect(extentsOf("tube")).toEqual(["length", "radius"]);
    expect(extentsOf("point")).toEqual([]);
  });
});
