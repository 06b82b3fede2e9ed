import { describe, expect, it } from "vitest";
import type { Camera, Scene } from "../api/types";
import { cameraPatch, patched, pointer, replace } from "./patch";

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
});

describe("cameraPatch", () => {
  it("changes only the fields that the hand has moved", () => {
    const before = { position: [0, 0, 1], target: [0, 0, 0], focal_length: 50 } as unknown as Camera;
    const after = { ...before, position: [1, 0, 0] } as Camera;
    expect(cameraPatch(before, after)).toEqual([replace("/camera/position", [1, 0, 0])]);
    expect(cameraPatch(before, before)).toEqual([]);
  });
});
