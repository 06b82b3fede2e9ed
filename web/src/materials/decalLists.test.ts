import { describe, expect, it } from "vitest";
import type { Decal, Scene } from "../api/types";
import { patched } from "../store/patch";
import { inOrder, listed, reordered } from "./decalLists";

const decal = (order: number, ...parts: string[]) => ({ order, parts }) as unknown as Decal;
const scene = {
  parts: { cup: {}, lid: {} },
  decals: { a: decal(2, "cup"), b: decal(0, "lid", "gone"), c: decal(1, "cup", "lid"), d: decal(5, "gone") },
} as unknown as Scene;

describe("lists of decals", () => {
  it("has those on selected parts from the uppermost down, and those that lie on nothing in any case", () => {
    expect(listed(scene, ["cup"])).toEqual(["a", "c", "d"]);
    expect(listed(scene, ["lid"])).toEqual(["c", "b", "d"]);
    expect(listed(scene, [])).toEqual(["d"]);
  });

  it("does not take a part for selected that is not there any more", () => {
    expect(listed(scene, ["gone"])).toEqual(["d"]);
  });

  it("lifts one over the next, and back", () => {
    const lifted = patched(scene, reordered(scene.decals, "b", 1));
    expect(inOrder(lifted.decals)).toEqual(["c", "b", "a", "d"]);
    expect(inOrder(patched(lifted, reordered(lifted.decals, "b", -1)).decals)).toEqual(inOrder(scene.decals));
  });
});
