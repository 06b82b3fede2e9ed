import { describe, expect, it } from "vitest";
import type { Camera, Scene } from "../api/types";
import { cameraPatch, difference, patched, pointer, replace } from "./patch";

describe("pointer", () => {
  it("escapes as RFC 6901 says", () => expect(pointer("materials", "a/b~c")).toBe("/materials/a~1b~0c"));
});

describe("patched", () => {
  it("leaves the document as it was", () => {
    const scene = { look: { exposure: 0, view: "filmic" } } as Scene;
    const after = patched(scene, [replace("/look/exposure", 2)]);
    expect(after.look.exposure).toBe(2);
    expect(scene.look.exposure).toBe(0);
  });

  it("shares what it does not touch", () => {
    const scene = { look: { exposure: 0 }, parts: { a: { matrix: [1, 2] }, b: {} } } as unknown as Scene;
    const after = patched(scene, [replace("/parts/a/matrix/1", 5)]);
    expect(after.parts.a?.matrix).toEqual([1, 5]);
    expect(after.parts.b).toBe(scene.parts.b);
    expect(after.look).toBe(scene.look);
  });

  it("adds to and takes from objects and lists, escaped keys too", () => {
    const scene = { lights: { "a/b": { unlit_parts: ["x"] } } } as unknown as Scene;
    const after = patched(scene, [
      { op: "add", path: "/lights/a~1b/unlit_parts/-", value: "z" },
      { op: "add", path: "/lights/a~1b/unlit_parts/1", value: "y" },
      { op: "remove", path: "/lights/a~1b/unlit_parts/0" },
      { op: "add", path: "/lights/c", value: {} },
    ]);
    expect(after.lights).toEqual({ "a/b": { unlit_parts: ["y", "z"] }, c: {} });
  });

  it.each([
    ["replace", "/lights/gone/on"],
    ["remove", "/lights/gone"],
    ["replace", "/list/3"],
    ["add", "/list/9"],
    ["replace", "/look/exposure/deeper"],
  ] as const)("refuses to %s what is not there: %s", (op, path) => {
    const scene = { lights: {}, list: [1], look: { exposure: 1 } } as unknown as Scene;
    expect(() => patched(scene, [{ op, path, value: 1 }])).toThrow("not there");
  });
});

describe("cameraPatch", () => {
  it("changes only the fields that the hand has moved", () => {
    const before = { position: [0, 0, 1], target: [0, 0, 0], focal_length: 50 } as unknown as Camera;
    const after = { ...before, position: [1, 0, 0] } as Camera;
    expect(cameraPatch(before, after)).toEqual([replace("/camera/position", [1, 0, 0])]);
    expect(cameraPatch(before, before)).toEqual([]);
  });
});

describe("difference", () => {
  const scene = {
    look: { exposure: 0 },
    parts: { a: { x: 1 }, b: { x: 2 } },
    lights: {},
  } as unknown as Scene;

  it("is nothing between what is the same, and entry by entry where they are the same ones", () => {
    expect(difference(scene, scene)).toEqual([]);
    const other = patched(scene, [replace("/parts/b/x", 5)]);
    expect(difference(scene, other)).toEqual([replace("/parts/b", { x: 5 })]);
    expect(patched(scene, difference(scene, other))).toEqual(other);
  });

  it("takes a section as a whole where an entry has come or gone", () => {
    const other = patched(scene, [{ op: "add", path: "/lights/l", value: { on: true } }]);
    expect(difference(other, scene)).toEqual([replace("/lights", {})]);
    expect(patched(other, difference(other, scene))).toEqual(scene);
  });
});
