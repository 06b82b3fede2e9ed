// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { material, openTestProject, renderIn } from "../testing/workspace";
import { FieldGroups } from "./FieldGroup";
import { EVERYTHING, type Finding, FindingContext } from "./finding";

const PLACES = [["materials", "a"]];

let workspace: Workspace;
const open = (materials: object) => {
  workspace = openTestProject({ materials });
};
const show = (places = PLACES, finding: Finding = EVERYTHING, unfolded: string[] = []) =>
  renderIn(
    workspace,
    <FindingContext.Provider value={finding}>
      <FieldGroups model="Material" places={places} open={unfolded} />
    </FindingContext.Provider>,
  );
const line = (label: string) => screen.getByRole("button", { name: new RegExp(`^${label}`) });
const fields = () => screen.queryAllByRole("spinbutton").map((field) => field.getAttribute("aria-label"));

describe("groups of controls", () => {
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.unstubAllGlobals();
  });

  it("folded say in one line what is in them", () => {
    open({ a: material("M", { coat_weight: 0.4, coat_roughness: 0.1 }) });
    show();
    expect(line("Coat").textContent).toBe("Coat0.4· rough 0.1");
    expect(line("Fuzz").textContent).toBe("Fuzznone");
    expect(fields()).toEqual([]);
  });

  it("show a row only while it has an effect, and remember that they are open", () => {
    open({ a: material("M") });
    show();
    fireEvent.click(line("Coat"));
    expect(fields()).toEqual(["Coat"]);
    workspace.commit([{ op: "replace", path: "/materials/a/coat_weight", value: 1 }], "Coat");
    cleanup();
    show();
    expect(fields()).toContain("Coat roughness");
  });

  it("show what has an effect in any of several materials, and where these differ", () => {
    open({ a: material("M"), b: material("M", { coat_weight: 0.5 }) });
    show([
      ["materials", "a"],
      ["materials", "b"],
    ]);
    expect(line("Coat").textContent).toBe("Coatmixed· rough 0");
    fireEvent.click(line("Coat"));
    expect(fields()).toContain("Coat roughness");
    expect(screen.getByLabelText("Coat").getAttribute("placeholder")).toBe("mixed");
  });

  it("show what is looked for, and what that needs", () => {
    open({ a: material("M") });
    show(PLACES, { query: "abbe", changedOnly: false });
    expect(screen.getByText("Abbe number")).toBeTruthy();
    expect(screen.getByText("needs Dispersion")).toBeTruthy();
    expect(screen.queryByText("Base colour")).toBeNull();
  });

  it("show only what was changed", () => {
    open({ a: material("M", { specular_roughness: 0.7 }) });
    show(PLACES, { query: "", changedOnly: true });
    expect(fields()).toEqual(["Roughness"]);
  });

  it("draw a control again only when its own value changes", () => {
    open({ a: material("M") });
    show(PLACES, EVERYTHING, ["base", "specular"]);
    const row = screen.getByTestId("track Roughness").parentElement!.parentElement!;
    const watch = new MutationObserver(() => {});
    watch.observe(document.body, { subtree: true, attributes: true, childList: true, characterData: true });
    const gesture = workspace.begin("Roughness");
    act(() => gesture.preview([{ op: "replace", path: "/materials/a/specular_roughness", value: 0.9 }]));
    const changes = watch.takeRecords();
    expect(changes.length).toBeGreaterThan(0);
    for (const { target } of changes) expect(row.contains(target)).toBe(true);
    gesture.cancel();
  });
});
