// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { giveRoom } from "../testing/layout";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { MaterialsStop } from "./MaterialsStop";

const layer = (name: string) => ({
  material: name,
  enabled: true,
  coverage: 1,
  thickness: 0,
  mask: null,
  breakup: null,
});

describe("the layers of a material", () => {
  let workspace: Workspace;
  beforeEach(() => {
    giveRoom({ height: 400, width: 300 });
    workspace = openTestProject({
      camera: { position: [0, 0, 1], target: [0, 0, 0], keys: [] },
      materials: {
        paint: material("Paint", { inputs: {}, layers: [layer("steel"), layer("dust")] }),
        steel: material("Steel", { inputs: {}, layers: [] }),
        dust: material("Dust", { inputs: {}, layers: [] }),
      },
      parts: { cap: part("Cap", "paint"), foot: part("Foot", "steel") },
    });
    renderIn(workspace, <MaterialsStop />);
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.restoreAllMocks();
    vi.unstubAllGlobals();
  });
  const layers = () => workspace.getState().scene.materials.paint!.layers.map((each) => each.material);

  it("stand with the uppermost first, are moved, hidden and removed, each as one step", () => {
    act(() => workspace.select(["cap"]));
    const titles = () =>
      screen.getAllByRole("region", { name: /^Layer / }).map((each) => each.getAttribute("aria-label"));
    expect(titles()).toEqual(["Layer Dust", "Layer Steel"]);
    fireEvent.click(screen.getByRole("button", { name: "Lift Steel" }));
    expect(layers()).toEqual(["dust", "steel"]);
    expect(titles()).toEqual(["Layer Steel", "Layer Dust"]);
    fireEvent.click(screen.getByRole("button", { name: "Hide the layer Steel" }));
    expect(workspace.getState().scene.materials.paint!.layers[1]!.enabled).toBe(false);
    fireEvent.click(screen.getByRole("button", { name: "Remove the layer Dust" }));
    expect(layers()).toEqual(["steel"]);
    const edits = Line.last.sent.filter(({ type }) => type === "edit");
    expect(edits.map(({ label }) => label)).toEqual(["Lift Steel", "Hide Steel", "No Dust over it"]);
  });

  it("are asked of the host, which knows the sizes", () => {
    act(() => workspace.select(["foot"]));
    fireEvent.click(screen.getByRole("button", { name: /^Layers/ }));
    fireEvent.click(screen.getByRole("button", { name: "Lay a material over it" }));
    expect(screen.queryByRole("menuitem", { name: "Steel" }), "nothing lies over itself").toBeNull();
    fireEvent.click(screen.getByRole("menuitem", { name: "Dust" }));
    expect(Line.last.sent.at(-1)).toMatchObject({ type: "make_layer", materials: ["steel"], over: "dust" });
  });

  it("lead to their materials, and back", () => {
    act(() => workspace.select(["cap"]));
    fireEvent.click(screen.getByRole("button", { name: "Dust" }));
    expect(screen.getByText("lies over others")).not.toBeNull();
    expect(
      screen.queryByRole("button", { name: /^Layers/ }),
      "of what lies over it none are shown",
    ).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Back to Paint" }));
    expect(screen.getByText("on Cap")).not.toBeNull();
  });

  it("have masks, which are asked of the host as well and taken away here", async () => {
    act(() => workspace.select(["cap"]));
    fireEvent.click(screen.getByRole("button", { name: "Pattern or image for Mask of Dust" }));
    fireEvent.click(screen.getByRole("menuitem", { name: "Crevices" }));
    expect(Line.last.sent.at(-1)).toMatchObject({
      type: "make_mask",
      material: "paint",
      layer: 1,
      which: "mask",
      kind: "crevices",
    });
    expect(screen.queryByText("Break-up"), "of no mask there is nothing to break up").toBeNull();
  });
});
