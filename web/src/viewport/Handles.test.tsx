// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Frame } from "../socket/frame";
import type { Workspace } from "../store/workspace";
import { Line, openTestProject, part, renderIn } from "../testing/workspace";
import { Handles } from "./Handles";

const PLACE = { left: 0, top: 0, width: 1000, height: 1000 };
/** Seen from +Z, one metre away, through a lens that shows half a metre. */
const FRAME = {
  full: { width: 1000, height: 1000 },
  camera: {
    position: [0, 0, 1],
    target: [0, 0, 0],
    focal_length: 72,
    sensor_width: 36,
    shift_x: 0,
    shift_y: 0,
    distortion: 0,
    roll: 0,
    orthographic: false,
  },
} as unknown as Frame;

describe("handles", () => {
  let workspace: Workspace;
  const offset = () => workspace.getState().scene.parts.cap!.offset;

  beforeEach(async () => {
    SVGElement.prototype.setPointerCapture = () => {};
    SVGElement.prototype.getBoundingClientRect = () => new DOMRect(0, 0, 1000, 1000);
    workspace = openTestProject({ parts: { cap: part("Cap", "m") } });
    renderIn(workspace, <Handles number={0} place={PLACE} frame={FRAME} />);
    act(() => {
      workspace.select(["cap"]);
      workspace.set({ handle: "move" });
    });
    await Line.last.answer("bounds", {
      box: [
        [-0.1, -0.1, -0.1],
        [0.1, 0.1, 0.1],
      ],
    });
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.unstubAllGlobals();
  });

  const drag = (axis: string, pixels: number) => {
    const grip = screen.getByTestId(`handle-${axis}`);
    fireEvent.pointerDown(grip, { pointerId: 1, clientX: 576, clientY: 500 });
    fireEvent.pointerMove(grip, { pointerId: 1, clientX: 576 + pixels, clientY: 500 });
    return grip;
  };

  it("move along their axis by what the hand has moved, as one step", () => {
    const grip = drag("X", 100);
    expect(offset()[0]).toBeCloseTo(0.05, 3);
    expect(offset()[1]).toBe(0);
    expect(screen.getByTestId("handle-amount").textContent).toContain("Move X 0.0500 m");
    expect(Line.last.sent.filter(({ type }) => type === "edit")).toEqual([]);
    fireEvent.pointerUp(grip, { pointerId: 1 });
    expect(Line.last.sent.filter(({ type }) => type === "edit")).toHaveLength(1);
  });

  it("take a typed amount, and Escape takes everything back", () => {
    drag("X", 30);
    for (const key of ["0", ".", "2"]) fireEvent.keyDown(window, { key });
    expect(offset()[0]).toBeCloseTo(0.2, 9);
    fireEvent.keyDown(window, { key: "Escape" });
    expect(offset()[0]).toBe(0);
    expect(Line.last.sent.filter(({ type }) => type === "edit")).toEqual([]);
  });

  it("are not there without something to handle", () => {
    act(() => workspace.select([]));
    expect(screen.queryByTestId("handles-0")).toBeNull();
  });
});
