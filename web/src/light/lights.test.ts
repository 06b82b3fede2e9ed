import { describe, expect, it } from "vitest";
import { fields } from "../api/fields.gen";
import { extentsOf, inFolders, KINDS, type LightKind, linked, modelOf, sharedGroups } from "./lights";

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

it("lights of a shared group lie in a folder where the first of them stands", () => {
  const light = (group: string) => ({ group }) as never;
  const all = { a: light("key"), b: light("rim"), c: light("key"), d: light("fill") };
  const folders = inFolders(Object.entries(all), sharedGroups(all));
  expect(folders.map(({ group, lights }) => [group, lights.map(([key]) => key)])).toEqual([
    ["key", ["a", "c"]],
    [null, ["b"]],
    [null, ["d"]],
  ]);
});

it("a light is kept off parts, and lights them again", () => {
  const light = { unlit_parts: ["a", "b"] } as never;
  expect(linked(light, ["b", "c"], false)).toEqual(["a", "b", "c"]);
  expect(linked(light, ["b", "c"], true)).toEqual(["a"]);
  expect(linked({} as never, ["a"], true)).toEqual([]);
});
