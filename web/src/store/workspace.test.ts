import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Camera, Scene } from "../api/types";
import { replace } from "./patch";
import { openWorkspace, type Workspace } from "./workspace";

const sent: { type: string; request?: string; patch?: unknown; [key: string]: unknown }[] = [];
let wire: { onmessage?: (event: { data: string }) => void; onopen?: () => void };

class Wire {
  static readonly OPEN = 1;
  readyState = 1;
  constructor() {
    wire = this as typeof wire;
  }
  send(text: string) {
    sent.push(JSON.parse(text));
  }
  close() {}
}

const scene = (exposure: number) =>
  ({
    look: { exposure, view: "filmic" },
    camera: { focal_length: 50 },
    parts: { cap: { name: "Cap" } },
    lights: {},
    part_sets: {},
    decals: {},
    materials: {},
    motion: { moves: {} },
  }) as unknown as Scene;

const receive = (message: object) => wire.onmessage?.({ data: JSON.stringify(message) });
const document = (revision: number, exposure: number) => ({
  type: "document",
  revision,
  scene: scene(exposure),
  can_undo: true,
  can_redo: false,
});
const exposed = (value: number) => [replace("/look/exposure", value)];

describe("workspace", () => {
  let workspace: Workspace;
  const state = () => workspace.getState();

  beforeEach(() => {
    vi.stubGlobal("WebSocket", Wire);
    vi.stubGlobal("location", { protocol: "http:", host: "here" });
    sent.length = 0;
    workspace = openWorkspace({
      id: 1,
      name: "Lamp",
      scene: scene(0),
      revision: 1,
      can_undo: false,
      can_redo: false,
      problems: ["an old fault"],
      report: [],
    });
    wire.onopen?.();
  });
  afterEach(() => {
    workspace.close();
    vi.unstubAllGlobals();
  });

  it("shows an edit in hand at once and saves it on release", () => {
    const gesture = workspace.begin("Exposure");
    gesture.preview(exposed(1));
    gesture.preview(exposed(2));
    expect(state().scene.look.exposure).toBe(2);
    expect(state().committed.look.exposure).toBe(0);
    receive(document(1, 0));
    gesture.commit();
    expect(state().saved).toBe(false);
    receive(document(2, 2));
    receive({ type: "committed", request: sent.at(-1)!.request, revision: 2 });
    expect(state()).toMatchObject({ saved: true, revision: 2, canUndo: true });
    expect(sent.map((m) => m.type)).toEqual(["preview", "preview", "edit"]);
  });

  it("keeps an edit in hand over a document that somebody else changed", () => {
    const gesture = workspace.begin("Exposure");
    gesture.preview(exposed(3));
    receive(document(2, -1));
    expect(state().scene.look.exposure).toBe(3);
    expect(state().committed.look.exposure).toBe(-1);
    gesture.cancel();
    expect(state().scene.look.exposure).toBe(-1);
  });

  it("does not reset what is in hand when another edit is refused", () => {
    workspace.commit([replace("/camera/focal_length", 1)], "Lens");
    const refused = sent.at(-1)!.request;
    const gesture = workspace.begin("Exposure");
    gesture.preview(exposed(3));
    receive({ type: "refused", request: refused, message: "no such lens" });
    expect(state().scene).toMatchObject({ look: { exposure: 3 }, camera: { focal_length: 50 } });
    gesture.commit();
    expect(sent.at(-1)).toMatchObject({ type: "edit", patch: exposed(3) });
  });

  it("stores the dolly of the wheel when a slider is taken before the wheel has come to rest", () => {
    const camera = { ...scene(0).camera, focal_length: 60 } as Camera;
    const wheel = workspace.beginCamera(0, "Dolly");
    wheel.preview(camera);
    workspace.begin("Exposure").preview(exposed(1));
    wheel.commit();
    expect(sent.filter((m) => m.type === "edit").map((m) => m.label)).toEqual(["Dolly"]);
    expect(state().scene).toMatchObject({ look: { exposure: 1 }, camera: { focal_length: 60 } });
  });

  it("stores what is in hand before it undoes, and when the project is left", () => {
    receive(document(2, 1));
    workspace.begin("Exposure").preview(exposed(5));
    workspace.undo();
    expect(sent.slice(-2).map((m) => m.type)).toEqual(["edit", "undo"]);
    workspace.begin("Exposure").preview(exposed(6));
    workspace.close();
    expect(sent.at(-1)).toMatchObject({ type: "edit", patch: exposed(6) });
  });

  it("keeps quick edits together: a document from before them takes none of them back", () => {
    workspace.commit(exposed(1), "Exposure");
    workspace.commit([replace("/camera/focal_length", 60)], "Lens");
    receive(document(2, 1));
    expect(state().scene.camera.focal_length).toBe(60);
    expect(state().scene.look.exposure).toBe(1);
    receive({ type: "refused", request: sent.at(-1)!.request, message: "no such lens" });
    expect(state().scene.camera.focal_length).toBe(50);
    expect(state().scene.look.exposure).toBe(1);
  });

  it("shows what was before the last edit for as long as it is asked to, and stores nothing", () => {
    workspace.showEarlier()();
    workspace.commit(exposed(1), "Exposure");
    workspace.commit([replace("/camera/focal_length", 60)], "Lens");
    const before = sent.length;
    const back = workspace.showEarlier();
    expect(workspace.getState().scene.camera.focal_length).not.toBe(60);
    expect(workspace.getState().scene.look.exposure).toBe(1);
    back();
    expect(workspace.getState().scene.camera.focal_length).toBe(60);
    const types = sent.slice(before).map((message) => message.type);
    expect(types).not.toContain("edit");
  });

  it("takes a refused edit back and says why", () => {
    workspace.commit(exposed(99), "Exposure");
    receive({ type: "refused", request: sent.at(-1)!.request, message: "look/exposure: too high" });
    expect(state().scene.look.exposure).toBe(0);
    expect(state().saved).toBe(true);
    expect(state().notices.at(-1)).toEqual({ severity: "error", text: "look/exposure: too high" });
  });

  it("says a problem once", () => {
    receive({ type: "problems", problems: ["an old fault", "a new fault"] });
    receive({ type: "problems", problems: ["a new fault"] });
    expect(state().notices.map((n) => n.text)).toEqual(["a new fault"]);
    workspace.dismiss(state().notices[0]!);
    expect(state().notices).toHaveLength(0);
  });

  it("adds to the selection, takes out again, tells the panes, and lets go of parts that are gone", () => {
    workspace.select(["cap"]);
    workspace.select(["strap"], "add");
    expect(sent.at(-1)).toMatchObject({ type: "pane", pane: 0, selected: ["cap", "strap"] });
    workspace.select(["strap"], "add");
    expect(state().selection).toEqual(["cap"]);
    receive({ ...document(2, 0), scene: { ...scene(0), parts: {} } });
    expect(state().selection).toEqual([]);
  });

  it("commits the camera that frames the asset, as one edit of what differs", async () => {
    const done = workspace.frameParts(0, null);
    receive({ type: "fitted", asked: sent.at(-1)!.request, camera: { focal_length: 85 } });
    await done;
    expect(sent.at(-1)).toMatchObject({
      type: "edit",
      base: 1,
      patch: [{ path: "/camera/focal_length", value: 85 }],
    });
  });

  it("has not saved all while the host makes a change that it was asked for", async () => {
    const done = workspace.commitBy("begin_variants", 0);
    expect(state().asked).toBe(1);
    receive({ type: "made", asked: sent.at(-1)!.request, made: null });
    await done;
    expect(state().asked).toBe(0);
  });

  it("does not pull back a camera that was moved while the answer was on its way", async () => {
    const done = workspace.frameParts(0, null);
    const { request } = sent.at(-1)!;
    workspace.commitCamera(0, { focal_length: 60 } as Camera, "Zoom");
    receive({ type: "fitted", asked: request, camera: { focal_length: 85 } });
    await done;
    expect(state().scene.camera.focal_length).toBe(60);
  });

  it("gives the free view a camera of its own, which no edit of the document moves", () => {
    workspace.toggleSecond();
    expect(state()).toMatchObject({ active: 1, locked: true });
    workspace.commitCamera(1, { focal_length: 20 } as Camera, "Zoom");
    expect(sent.at(-1)).toMatchObject({ type: "pane", pane: 1, camera: { focal_length: 20 } });
    expect(state().scene.camera.focal_length).toBe(50);
    workspace.maximise(1);
    const last = (pane: number) => sent.filter((m) => m.type === "pane" && m.pane === pane).at(-1);
    expect([last(0)!.visible, last(1)!.visible]).toEqual([false, true]);
    workspace.toggleSecond();
    expect(sent.some((m) => m.type === "close_pane")).toBe(true);
    expect(state().panes).toHaveLength(1);
  });

  it("holds every pane of a window that is not seen", () => {
    workspace.setVisible(false);
    expect(sent.at(-1)).toMatchObject({ type: "pane", visible: false });
  });

  it("undoes only when there is something to undo", () => {
    workspace.undo();
    expect(sent.some((m) => m.type === "undo")).toBe(false);
    receive(document(2, 1));
    workspace.undo();
    expect(sent.at(-1)).toMatchObject({ type: "undo" });
  });

  it("holds, folds away and walks", () => {
    receive({ type: "running", running: false });
    expect(state().running).toBe(false);
    workspace.togglePanels();
    expect(state().panels).toBe(false);
    workspace.go("light");
    expect(state()).toMatchObject({ panels: true, stop: "light" });
  });
});
