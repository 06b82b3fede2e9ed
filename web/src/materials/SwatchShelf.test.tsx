// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { SwatchShelf } from "./SwatchShelf";

beforeAll(() => {
  for (const name of ["offsetWidth", "offsetHeight", "clientWidth"])
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, value: 600 });
});

describe("the shelf of materials", () => {
  let workspace: Workspace;
  beforeEach(() => {
    workspace = openTestProject({
      materials: {
        brass: material("Brass", { base_color: [1, 1, 1], base_color_texture: { texture: 0 } }),
        felt: material("Felt", { base_color: [0, 1, 0] }),
      },
      parts: { cap: part("Cap", "brass"), base: part("Base", "brass"), foot: part("Foot", "felt") },
    });
    renderIn(workspace, <SwatchShelf />);
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.unstubAllGlobals();
  });

  it("dresses what is selected, as one step", () => {
    act(() => workspace.select(["cap", "base"]));
    fireEvent.click(screen.getByRole("button", { name: "Dress Cap and Base in Felt" }));
    const { parts } = workspace.getState().scene;
    expect([parts.cap!.material, parts.base!.material, parts.foot!.material]).toEqual([
      "felt",
      "felt",
      "felt",
    ]);
    const edits = Line.last.sent.filter(({ type }) => type === "edit");
    expect(edits.map(({ label }) => label)).toEqual(["Felt on Cap and Base"]);
    expect(screen.getByRole("button", { name: /in Felt/ }).getAttribute("aria-pressed")).toBe("true");
  });

  it("selects a part that wears it, when nothing is selected", () => {
    fireEvent.click(screen.getByRole("button", { name: "Material Felt" }));
    expect(workspace.getState().selection).toEqual(["foot"]);
  });

  it("is never white for what is not white", () => {
    const patch = () => screen.getByTestId("swatch-brass").style.background;
    expect(patch()).toBe("rgb(58, 58, 58)");
    Line.last.receive({ type: "swatch", material: "brass", picture: "data:image/jpeg;base64,AAAA" });
    expect(patch()).toContain("data:image/jpeg");
    expect(screen.getByTestId("swatch-felt").style.background).toBe("rgb(0, 255, 0)");
  });
});
