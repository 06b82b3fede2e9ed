// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { material, openTestProject, part } from "../testing/workspace";
import { copyMaterial, pasted, pasteMaterial } from "./clipboard";

const IMAGE = { source: { kind: "image", texture: 3 } };
const layer = (name: string, mask: object | null) => ({
  material: name,
  enabled: true,
  mask,
  breakup: IMAGE,
});

describe("a copied material", () => {
  let workspace: Workspace;
  beforeEach(() => {
    localStorage.clear();
    workspace = openTestProject({
      materials: {
        paint: material("Paint", {
          inputs: { base_color: IMAGE },
          base_color_texture: { texture: 1 },
          layers: [layer("steel", null), layer("steel", IMAGE)],
        }),
        steel: material("Steel", { inputs: {}, layers: [] }),
        felt: material("Felt", { inputs: {}, layers: [] }),
      },
      parts: { cap: part("Cap", "paint"), foot: part("Foot", "felt"), base: part("Base", "felt") },
    });
  });
  afterEach(() => {
    workspace.close();
    vi.unstubAllGlobals();
  });

  it("is the very same within its project", () => {
    workspace.select(["cap"]);
    copyMaterial(workspace);
    workspace.select(["foot", "base"]);
    pasteMaterial(workspace);
    const { parts, materials } = workspace.getState().scene;
    expect([parts.foot!.material, parts.base!.material]).toEqual(["paint", "paint"]);
    expect(Object.keys(materials)).toHaveLength(3);
  });

  it("comes to another project with what lies over it, without images, and once", () => {
    const { scene } = workspace.getState();
    const copied = {
      project: 12,
      key: "paint",
      materials: { paint: scene.materials.paint!, steel: scene.materials.steel! },
    };
    const patch = pasted(scene, copied, false, ["foot"]);
    expect(patch.map(({ path }) => path)).toEqual([
      "/materials/paint-of-12",
      "/materials/steel-of-12",
      "/parts/foot/material",
    ]);
    const brought = patch[0]!.value as typeof copied.materials.paint;
    expect([brought.base_color_texture, brought.inputs]).toEqual([null, {}]);
    expect(brought.layers.map((one) => [one.material, one.breakup])).toEqual([["steel-of-12", null]]);
    const there = {
      ...scene,
      materials: { ...scene.materials, "paint-of-12": brought, "steel-of-12": brought },
    };
    expect(pasted(there, copied, false, ["foot"])).toHaveLength(1);
  });

  it("says what is missing", () => {
    const said = () => workspace.getState().notices.at(-1)!.text;
    copyMaterial(workspace);
    expect(said()).toContain("Select a part");
    workspace.select(["foot"]);
    pasteMaterial(workspace);
    expect(said()).toContain("No material has been copied");
  });
});
