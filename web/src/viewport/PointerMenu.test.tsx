// @vitest-environment jsdom
import { act, cleanup, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { PointerMenu } from "./PointerMenu";

const CAP = { part: "cap", position: [0, 0, 0], normal: [0, 0, 1], depth: 1 };
const DULL = { linear: [0.7, 0.4, 0.1], lab: [70, 20, 60] };
const SHINING = { linear: [27.6, 16.2, 7.1], lab: [288, 34, 117] };

describe("the menu of what is under the pointer", () => {
  beforeEach(async () => {
    const workspace = openTestProject({
      parts: { cap: part("Cap", "m") },
      materials: { m: material("Brass") },
    });
    renderIn(
      workspace,
      <PointerMenu number={0} place={{ x: 0.5, y: 0.5, left: 10, top: 10 }} onClose={() => {}} />,
    );
    await Line.last.answer("pick", { found: CAP });
  });
  afterEach(() => {
    cleanup();
    vi.unstubAllGlobals();
  });

  it("is there before what the surface reflects is known", () => {
    expect(screen.getByRole("menuitem", { name: "Edit the material of Cap" })).toBeTruthy();
    expect(screen.queryByTestId("reflectance")).toBeNull();
  });

  it("says shares of white in both lights, and of what shines how many times it is as bright", async () => {
    await act(() => Line.last.answer("reflectance", { even: DULL, here: SHINING }));
    const said = screen.getByTestId("reflectance").textContent;
    expect(said).toContain("In even white light: 70.0 %, 40.0 %, 10.0 % · L*a*b* 70.0, 20.0, 60.0");
    expect(said).toContain("In this light: 28 times as bright as white");
  });

  it("says nothing of the dark", async () => {
    await act(() => Line.last.answer("reflectance", { even: DULL, here: null }));
    expect(screen.getByTestId("reflectance").textContent).not.toContain("In this light");
  });
});
