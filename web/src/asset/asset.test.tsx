// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Finding, Scene } from "../api/types";
import type { Workspace } from "../store/workspace";
import { giveRoom } from "../testing/layout";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { PartsList } from "./PartsList";
import { PartTools } from "./PartTools";
import { outstanding, Report } from "./Report";
import { dimensions } from "./Size";

const finding = (kind: string, changes: Partial<Finding>): Finding => ({
  kind,
  text: kind,
  hint: "",
  count: 0,
  parts: [],
  repair: null,
  repair_label: "",
  unit: null,
  ...changes,
});
const flip = (key: string) => ({ op: "replace" as const, path: `/parts/${key}/inside_out`, value: true });
const REPORT = [
  finding("An unusual size", { unit: 0.01 }),
  finding("Closed parts that face inwards", {
    count: 2,
    parts: ["cup", "lid"],
    repair: [flip("cup"), flip("lid")],
    repair_label: "Turn them round",
  }),
];

let workspace: Workspace;
const scene = () => workspace.getState().scene;
const edits = () => Line.last.sent.filter(({ type }) => type === "edit");

beforeEach(() => {
  giveRoom({ height: 400, width: 300 });
  workspace = openTestProject(
    {
      camera: { position: [0, 0, 1], target: [0, 0, 0] },
      asset: { file: { sha256: "0".repeat(64), name: "case.glb" }, name: "Case", scale: 1, up: "+y" },
      materials: { oak: material("Oak"), brass: material("Brass") },
      parts: {
        cup: part("Cup", "oak", { inside_out: false }),
        lid: part("Lid", "brass", { inside_out: true, mesh: 1 }),
        knob: part("Cup", "brass", { mesh: 2 }),
      },
    },
    { report: REPORT, problems: ["OBJ says no unit: taken as metres"] },
  );
});
afterEach(() => {
  cleanup();
  workspace.close();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

describe("the import report", () => {
  it("lays a repair on what it is still about, and says when it is done", () => {
    renderIn(workspace, <Report />);
    expect(outstanding(scene(), REPORT[1]!)).toEqual([flip("cup")]);
    fireEvent.click(screen.getByRole("button", { name: "Turn them round" }));
    expect(edits()).toHaveLength(1);
    expect(scene().parts.cup!.inside_out).toBe(true);
    expect(screen.queryByRole("button", { name: "Turn them round" })).toBeNull();
    expect(screen.getByText("Done")).toBeTruthy();
    expect(screen.getByText("OBJ says no unit: taken as metres")).toBeTruthy();
  });

  it("asks the host to take the units as what they may be", () => {
    renderIn(workspace, <Report />);
    fireEvent.click(screen.getByRole("button", { name: "Take them as cm" }));
    const asked = Line.last.sent.find(({ type }) => type === "arrange");
    expect(asked?.operation).toEqual({ kind: "stand", scale: 0.01, up: null });
  });

  it("leaves out of a repair what is gone", () => {
    const { cup: _, ...left } = scene().parts;
    expect(outstanding({ ...scene(), parts: left } as Scene, REPORT[1]!)).toEqual([]);
    const merge = { ...REPORT[1]!, repair: [{ op: "remove" as const, path: "/materials/oak" }] };
    expect(outstanding(scene(), merge)).toHaveLength(1);
    expect(outstanding({ ...scene(), materials: {} }, merge)).toEqual([]);
  });
});

describe("parts", () => {
  const row = (name: string) =>
    within(screen.getByRole("grid", { name: "Parts" })).getByRole("button", { name });

  it("that are called alike are told apart", () => {
    renderIn(workspace, <PartsList />);
    expect(row("Cup Oak · cup")).toBeTruthy();
    expect(row("Cup Brass · knob")).toBeTruthy();
    expect(row("Lid Brass")).toBeTruthy();
  });

  it("are renamed by a key, and Escape keeps the name", () => {
    renderIn(workspace, <PartsList />);
    fireEvent.keyDown(row("Lid Brass"), { key: "F2" });
    fireEvent.change(screen.getByLabelText("Name of Lid"), { target: { value: "Cover" } });
    fireEvent.keyDown(screen.getByLabelText("Name of Lid"), { key: "Escape" });
    expect(scene().parts.lid!.name).toBe("Lid");
    fireEvent.doubleClick(row("Lid Brass"));
    fireEvent.change(screen.getByLabelText("Name of Lid"), { target: { value: " Cover " } });
    fireEvent.keyDown(screen.getByLabelText("Name of Lid"), { key: "Enter" });
    expect(scene().parts.lid!.name).toBe("Cover");
    expect(edits()).toHaveLength(1);
  });

  it("of one material are selected together, and copies are selected when they are there", async () => {
    renderIn(workspace, <PartTools />);
    act(() => workspace.select(["lid"]));
    fireEvent.click(screen.getByRole("button", { name: "Same material" }));
    expect(workspace.getState().selection).toEqual(["lid", "knob"]);
    fireEvent.click(screen.getByRole("button", { name: /^Arrange/ }));
    fireEvent.click(screen.getByRole("button", { name: "Duplicate" }));
    const value = part("Lid 2", "brass", { mesh: 1 });
    await Line.last.answer("arrange", {
      made: { key: "lid-1", label: "Duplicate", patch: [{ op: "add", path: "/parts/lid-1", value }] },
    });
    expect(workspace.getState().selection).toEqual(["lid-1"]);
  });

  it("that are so already are said to be", async () => {
    act(() => workspace.select(["lid"]));
    const done = workspace.arrange({ kind: "drop", parts: ["lid"] });
    await Line.last.answer("arrange", { made: { key: "", label: "Drop Lid to the ground", patch: [] } });
    await done;
    expect(edits()).toEqual([]);
    expect(workspace.getState().notices.at(-1)?.text).toContain("Drop Lid to the ground: that is so already");
  });
});

it("sizes are written in one unit that suits all three sides", () => {
  expect(dimensions([0.12, 0.2909, 0.12])).toBe("12 × 29.1 × 12 cm");
  expect(dimensions([46, 36.04, 0.5])).toBe("46 × 36 × 0.5 m");
  expect(dimensions([0.0021, 0.001, 0.0005])).toBe("2.1 × 1 × 0.5 mm");
});
