// @vitest-environment jsdom
import { act, cleanup, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Workspace } from "../store/workspace";
import { Line, openTestProject, renderIn } from "../testing/workspace";
import { HostVeil } from "./HostVeil";

describe("the veil", () => {
  let workspace: Workspace;
  const host = (state: string) => Line.last.receive({ type: "host", state });
  const said = () => screen.queryByTestId("veil")?.textContent ?? "";

  beforeEach(() => {
    workspace = openTestProject({});
    renderIn(workspace, <HostVeil />);
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.unstubAllGlobals();
  });

  it("says what is waited for, and goes when the picture is there", () => {
    expect(said()).toContain("Preparing the proof");
    for (const [state, words] of [
      ["waiting", "Waiting for a place"],
      ["resting", "Resting"],
      ["restarting", "every edit is kept"],
    ] as const) {
      host(state);
      expect(said()).toContain(words);
      expect(screen.getByRole("progressbar")).toBeTruthy();
    }
    host("ready");
    expect(said()).toBe("");
  });

  it("waits no more when the host keeps stopping, and says what to do", () => {
    host("failed");
    expect(said()).toContain("Undo the last edit");
    expect(screen.queryByRole("progressbar")).toBeNull();
  });

  it("lies over the picture when the line breaks or the session ends", () => {
    host("ready");
    act(() => Line.last.onclose?.({ code: 1006 }));
    expect(said()).toContain("The connection is lost");
    act(() => Line.last.onclose?.({ code: 4401 }));
    expect(said()).toContain("You are signed out");
  });
});
