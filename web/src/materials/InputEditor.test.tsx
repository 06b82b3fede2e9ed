// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { giveRoom } from "../testing/layout";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { MaterialsStop } from "./MaterialsStop";

const CHECKS = {
  source: { kind: "checks" },
  placement: {
    kind: "box",
    uv_set: 0,
    repeats: 1,
    size: 0.02,
    ratio: 1,
    offset: [0, 0, 0],
    turn_x: 0,
    turn_y: 0,
    turn_z: 0,
    blend: 0.3,
    space: "part",
  },
  low: 0,
  high: 1,
  ramp: {
    stops: [
      { at: 0.2, color: [0, 0, 0] },
      { at: 1, color: [1, 1, 1] },
    ],
    blend: "linear",
  },
  combine: "replace",
  amount: 1,
};

describe("the controls of an input", () => {
  let workspace: Workspace;
  beforeEach(() => {
    giveRoom({ height: 400, width: 300 });
    workspace = openTestProject({
      camera: { position: [0, 0, 1], target: [0, 0, 0], keys: [] },
      materials: {
        felt: material("Felt", { inputs: { base_color: CHECKS } }),
        cord: material("Cord", { inputs: { base_color: CHECKS } }),
        brass: material("Brass", { inputs: {} }),
      },
      parts: { foot: part("Foot", "felt"), lace: part("Lace", "cord"), cap: part("Cap", "brass") },
    });
    renderIn(workspace, <MaterialsStop />);
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.restoreAllMocks();
    vi.unstubAllGlobals();
  });
  const inputs = (key: string) => workspace.getState().scene.materials[key]!.inputs;
  const editor = () => screen.queryByRole("region", { name: "Checks of Base colour" });

  it("stand below what takes it, fold by its mark, and are none where there is none", () => {
    act(() => workspace.select(["foot"]));
    expect(editor()).not.toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Checks of Base colour" }));
    expect(editor()).toBeNull();
    act(() => workspace.select(["cap"]));
    expect(editor()).toBeNull();
    expect(screen.getByRole("button", { name: "Pattern or image for Base colour" })).not.toBeNull();
  });

  it("ask the host for a pattern, for all materials that are selected", () => {
    act(() => workspace.select(["foot", "cap"]));
    expect(editor(), "of one of them alone").toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Pattern or image for Base colour" }));
    fireEvent.click(screen.getByRole("menuitem", { name: "Weave" }));
    expect(Line.last.sent.at(-1)).toMatchObject({
      type: "make_input",
      materials: ["felt", "brass"],
      parameter: "base_color",
      kind: "weave",
    });
  });

  it("move a stop by keys, give it to all that are selected, and each is one step", () => {
    act(() => workspace.select(["foot", "lace"]));
    fireEvent.keyDown(screen.getByRole("slider", { name: "Stop 1" }), { key: "ArrowRight" });
    for (const key of ["felt", "cord"]) expect(inputs(key).base_color!.ramp!.stops[0]!.at).toBe(0.21);
    fireEvent.click(screen.getByRole("button", { name: "Add a stop" }));
    for (const key of ["felt", "cord"]) expect(inputs(key).base_color!.ramp!.stops).toHaveLength(3);
    expect(Line.last.sent.filter(({ type }) => type === "edit")).toHaveLength(2);
  });

  it("show the ends instead of a ramp, and what a placement needs alone", () => {
    act(() => workspace.select(["foot"]));
    const low = () => screen.queryByRole("spinbutton", { name: "Dark stands for" });
    expect(low()).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "No ramp" }));
    expect(inputs("felt").base_color!.ramp).toBeNull();
    expect(low()).not.toBeNull();
    expect(screen.queryByRole("spinbutton", { name: "Repeats in ×" })).toBeNull();
    expect(screen.getByRole("spinbutton", { name: "Size in m" })).not.toBeNull();
  });

  it("go with what is taken away", () => {
    act(() => workspace.select(["foot", "lace"]));
    fireEvent.click(screen.getByRole("button", { name: "Remove the pattern of Base colour" }));
    expect([inputs("felt"), inputs("cord")]).toEqual([{}, {}]);
    expect(editor()).toBeNull();
  });
});
