import { describe, expect, it } from "vitest";
import type { Scene } from "../api/types";
import { patched, pointer, replace } from "./patch";

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
