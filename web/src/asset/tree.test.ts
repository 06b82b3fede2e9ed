/** Parts and groups as rows: nested, closed, in the parts' own order. */
import { describe, expect, it } from "vitest";
import type { Scene } from "../api/types";
import { topsOf } from "../store/groups";
import { part } from "../testing/workspace";
import { treeRows } from "./tree";

const group = (name: string, above: string | null) => ({ name, group: above });
const SCENE = {
  parts: {
    screw: part("Screw", "m"),
    arm: part("Arm", "m", { group: "stand" }),
    foot: part("Foot", "m", { group: "stand" }),
    bulb: part("Bulb", "m", { group: "head" }),
    lost: part("Lost", "m", { group: "gone" }),
  },
  part_groups: {
    head: group("Head", "lamp"),
    stand: group("Stand", "lamp"),
    lamp: group("Lamp", null),
    empty: group("Empty", null),
  },
} as unknown as Scene;
const ORDER = ["screw", "foot", "bulb", "arm", "lost"];
const said = (closed: string[]) =>
  treeRows(SCENE, ORDER, (key) => closed.includes(key)).map(({ key, depth }) => `${"-".repeat(depth)}${key}`);

describe("the tree of parts", () => {
  it("shows a group where its first part would be", () => {
    expect(said([])).toEqual(["screw", "lamp", "-stand", "--foot", "--arm", "-head", "--bulb", "lost"]);
  });

  it("leaves out what is in closed groups", () => {
    expect(said(["stand"])).toEqual(["screw", "lamp", "-stand", "-head", "--bulb", "lost"]);
    expect(said(["lamp"])).toEqual(["screw", "lamp", "lost"]);
  });

  it("counts all parts of a group, however deep", () => {
    const rows = treeRows(SCENE, ORDER, () => false);
    expect(rows.find(({ key }) => key === "lamp")?.parts).toEqual(["arm", "foot", "bulb"]);
  });

  it("takes the outermost groups that a selection holds whole", () => {
    const tops = (keys: string[]) => topsOf(SCENE.parts, SCENE.part_groups, keys).map(({ key }) => key);
    expect(tops(["arm", "foot"])).toEqual(["stand"]);
    expect(tops(["arm", "bulb", "screw"])).toEqual(["arm", "head", "screw"]);
    expect(tops(["arm", "bulb", "foot", "lost"])).toEqual(["lamp", "lost"]);
  });
});
