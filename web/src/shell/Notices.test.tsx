// @vitest-environment jsdom
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { openTestProject, renderIn } from "../testing/workspace";
import { Notices } from "./Notices";

describe("notices", () => {
  afterEach(() => {
    cleanup();
    vi.unstubAllGlobals();
  });

  it("lead to what has come to be, and can be put away all the same", () => {
    const workspace = openTestProject({});
    renderIn(workspace, <Notices />);
    act(() => workspace.notify({ severity: "info", text: "It is ready.", project: 7 }));
    act(() => workspace.notify({ severity: "error", text: "That went wrong." }));
    expect(screen.getByRole("link", { name: "Open" }).getAttribute("href")).toBe("#/projects/7");
    fireEvent.click(screen.getAllByRole("button", { name: "Close" })[0]!);
    expect(screen.queryByText("It is ready.")).toBeNull();
    expect(screen.getByText("That went wrong.")).toBeTruthy();
    workspace.close();
  });
});
