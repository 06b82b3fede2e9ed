// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { Possible } from "./Possible";

const DOUBT = {
  material: "felt",
  field: "base_color",
  text: "Felt: a base colour of 0.97.",
  patch: [{ op: "replace", path: "/materials/felt/base_color", value: [0.9, 0.9, 0.9] }],
};
const REST_MS = 300;

describe("whether a material is possible", () => {
  let workspace: Workspace;
  beforeEach(() => {
    vi.useFakeTimers();
    workspace = openTestProject({
      materials: { felt: material("Felt", { base_color: [0.97, 0.97, 0.97] }) },
      parts: { foot: part("Foot", "felt") },
    });
    renderIn(workspace, <Possible materials={["felt"]} />);
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });
  const asked = () => Line.last.sent.filter(({ type }) => type === "possible");
  const rest = () => act(async () => vi.advanceTimersByTime(REST_MS));

  it("is asked of the host, said, settled at a click, and asked again when that has changed it", async () => {
    await rest();
    expect(asked()).toMatchObject([{ materials: ["felt"] }]);
    expect(screen.queryByRole("region")).toBeNull();
    const settled = { ...DOUBT, field: "inputs", text: "Felt: a pattern.", patch: [] };
    await Line.last.answer("possible", { type: "doubts", doubts: [DOUBT, settled] });
    expect(screen.getByRole("region", { name: "Is it possible?" }).textContent).toContain("0.97");
    expect(screen.getAllByRole("button"), "what the hand has to settle has none").toHaveLength(1);
    fireEvent.click(screen.getByRole("button", { name: "Nearest possible" }));
    expect(workspace.getState().scene.materials.felt!.base_color).toEqual([0.9, 0.9, 0.9]);
    await rest();
    expect(asked()).toHaveLength(2);
    await Line.last.answer("possible", { type: "doubts", doubts: [] });
    expect(screen.queryByRole("region")).toBeNull();
  });
});
