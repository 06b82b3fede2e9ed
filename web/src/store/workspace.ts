/**
 * The state of one open project, outside React. `scene` is the document as the person sees it, with the edit in
 * hand; `committed` is what the server has, with the edits that are on their way there.
 */
import { createStore, type StoreApi } from "zustand/vanilla";
import type { Camera, HostState, Opened, Operation, Scene, ServerMessage } from "../api/types";
import type { Frame } from "../socket/frame";
import type { Found, PixelValues } from "../socket/panes";
import { type Connection, ViewportSocket } from "../socket/viewport";
import { type Gesture, Hand } from "./hand";
import { FREE, newPane, type Pane, type PaneNumber, paneMessage, SHOT } from "./panes";
import { cameraPatch, patched } from "./patch";

export type Stop = "asset" | "materials" | "light" | "camera" | "print";
export type Notice = {
  severity: "info" | "warning" | "error";
  text: string;
  /** That has come to be. */
  project?: number;
};
/** What a press in the picture does: turn the camera, draw a loupe, or set the focus. */
export type Tool = "camera" | "loupe" | "focus";
export type Handle = "move" | "turn" | "scale" | null;

export interface WorkspaceState {
  project: number;
  name: string;
  scene: Scene;
  committed: Scene;
  revision: number;
  canUndo: boolean;
  canRedo: boolean;
  saved: boolean;
  connection: Connection;
  host: HostState;
  opened: Opened | null;
  /** Pictures of the materials, as addresses of images; one may be missing while it is made. */
  swatches: Record<string, string>;
  running: boolean;
  panes: [Pane] | [Pane, Pane];
  active: PaneNumber;
  maximised: PaneNumber | null;
  /** The shot's camera does not follow the hand in the picture; the drawer still changes it. */
  locked: boolean;
  stop: Stop;
  panels: boolean;
  alone: boolean;
  readout: boolean;
  palette: boolean;
  tool: Tool;
  handle: Handle;
  selection: string[];
  light: string | null;
  notices: Notice[];
}

export interface Workspace {
  getState: () => WorkspaceState;
  subscribe: StoreApi<WorkspaceState>["subscribe"];
  getInitialState: () => WorkspaceState;
  set: (
    changes: Partial<Pick<WorkspaceState, "tool" | "handle" | "palette" | "readout" | "active" | "locked">>,
  ) => void;
  /** Take a change into the hand: it is shown while it is held, and one step of undo when it is let go. */
  begin: (label: string) => Gesture;
  /** The same for the camera of a pane; that of the free view is no part of the document. */
  beginCamera: (pane: PaneNumber, label: string) => Gesture<Camera>;
  /** Let go of what is in hand, and store it. */
  letGo: () => void;
  /** Change the document at once; what is in hand is let go before. */
  commit: (patch: Operation[], label: string) => void;
  undo: () => void;
  redo: () => void;
  setRunning: (running: boolean) => void;
  setPane: (pane: PaneNumber, changes: Partial<Pane>) => void;
  cameraOf: (pane: PaneNumber) => Camera;
  commitCamera: (pane: PaneNumber, camera: Camera, label: string) => void;
  toggleSecond: () => void;
  maximise: (pane: PaneNumber | null) => void;
  setVisible: (visible: boolean) => void;
  pick: (pane: PaneNumber, x: number, y: number) => Promise<Found | null>;
  values: (pane: PaneNumber, x: number, y: number) => Promise<PixelValues | null>;
  bounds: (parts: string[]) => Promise<[number[], number[]] | null>;
  frameParts: (pane: PaneNumber, parts: string[] | null) => Promise<void>;
  lookFrom: (direction: "front" | "side" | "top") => Promise<void>;
  select: (parts: string[], how?: "only" | "add") => void;
  chooseLight: (light: string | null) => void;
  go: (stop: Stop) => void;
  togglePanels: () => void;
  toggleAlone: () => void;
  notify: (notice: Notice) => void;
  dismiss: (notice: Notice) => void;
  close: () => void;
}

/** Where the selection is outlined; at the others nothing lies over the picture that was not asked for. */
const OUTLINED: Stop[] = ["asset", "materials"];

interface Opening {
  id: number;
  name: string;
  scene: Scene;
  revision: number;
  can_undo: boolean;
  can_redo: boolean;
  problems: string[];
}

/** The document with a patch, or as it was when what the patch is about is gone. */
function patchedIfFits(scene: Scene, patch: Operation[]): Scene {
  try {
    return patched(scene, patch);
  } catch {
    return scene;
  }
}

/** Open a project: connects at once. */
export function openWorkspace(opening: Opening): Workspace {
  const store = createStore<WorkspaceState>(() => ({
    project: opening.id,
    name: opening.name,
    scene: opening.scene,
    committed: opening.scene,
    revision: opening.revision,
    canUndo: opening.can_undo,
    canRedo: opening.can_redo,
    saved: true,
    connection: "connecting",
    host: "starting",
    opened: null,
    swatches: {},
    running: true,
    panes: [newPane(null)],
    active: SHOT,
    maximised: null,
    locked: false,
    stop: "asset",
    panels: true,
    alone: false,
    readout: false,
    palette: false,
    tool: "camera",
    handle: null,
    selection: [],
    light: null,
    notices: opening.problems.map((text) => ({ severity: "warning", text })),
  }));
  const set = store.setState;
  const get = store.getState;
  let confirmed = opening.scene; // what the server has
  let windowVisible = true;

  const notify = (notice: Notice) =>
    set((s) =>
      s.notices.some((n) => n.text === notice.text) ? s : { notices: [...s.notices, notice].slice(-4) },
    );

  const withPane = (s: WorkspaceState, number: number, changes: Partial<Pane>): Partial<WorkspaceState> =>
    s.panes[number]
      ? { panes: s.panes.map((p, i) => (i === number ? { ...p, ...changes } : p)) as WorkspaceState["panes"] }
      : {};

  const tellPane = (number: PaneNumber) => {
    const { panes, selection, maximised, stop, handle } = get();
    const pane = panes[number];
    const outlined = OUTLINED.includes(stop) || handle !== null ? selection : [];
    const visible = windowVisible && (maximised === null || maximised === number);
    if (pane) socket.setPane(paneMessage(number, pane, outlined, visible));
  };
  const tellAll = () => {
    for (const number of get().panes.keys()) tellPane(number as PaneNumber);
  };

  const onMessage = (message: ServerMessage) => {
    switch (message.type) {
      case "document":
      case "edited": {
        try {
          confirmed = message.type === "document" ? message.scene : patched(confirmed, message.patch);
        } catch {
          socket.reconnect(); // this window has missed something
          break;
        }
        // Edits on their way were made after this document: quick ones must not jump back.
        const scene = socket.waiting().reduce(patchedIfFits, confirmed);
        const gone = get().selection.some((key) => !(key in scene.parts));
        set((s) => ({
          committed: scene,
          // An edit in hand goes on over the new document; its release decides.
          scene: patchedIfFits(scene, hand.patch ?? []),
          revision: message.revision,
          canUndo: message.can_undo,
          canRedo: message.can_redo,
          selection: gone ? s.selection.filter((key) => key in scene.parts) : s.selection,
          light: s.light !== null && s.light in scene.lights ? s.light : null,
        }));
        if (gone) tellAll();
        break;
      }
      case "committed":
        set({ saved: socket.saved });
        break;
      case "refused": {
        const scene = socket.waiting().reduce(patchedIfFits, confirmed);
        set({ saved: socket.saved, committed: scene, scene: patchedIfFits(scene, hand.patch ?? []) });
        notify({ severity: "error", text: message.message });
        break;
      }
      case "host":
        set({ host: message.state });
        break;
      case "running":
        set({ running: message.running });
        break;
      case "status": {
        const { type: _, pane, ...status } = message;
        set((s) => withPane(s, pane, { status }));
        break;
      }
      case "scale":
        set((s) => withPane(s, message.pane, { ticks: message.ticks }));
        break;
      case "problems":
        for (const text of message.problems) notify({ severity: "warning", text });
        break;
      case "swatch":
        set((s) => ({ swatches: { ...s.swatches, [message.material]: message.picture } }));
        break;
      case "error":
        notify({ severity: "error", text: message.message });
        break;
      case "opened":
        set({ opened: message });
        break;
    }
  };

  const onFrame = (frame: Frame) => set((s) => withPane(s, frame.pane, { [frame.kind]: frame }));

  const socket = new ViewportSocket(opening.id, {
    onMessage,
    onFrame,
    onConnection: (connection) => set({ connection }),
  });

  const hand = new Hand({
    show: (patch) => {
      set((s) => ({ scene: patched(s.committed, patch) }));
      socket.preview(patch);
    },
    store: (patch, label) => {
      const scene = patched(get().committed, patch);
      set({ committed: scene, scene, saved: false });
      socket.edit(patch, label, get().revision);
    },
  });

  /** The camera of the free view: it is the window's own, and nothing is stored. */
  const beginFreeCamera = (number: PaneNumber, before: Camera): Gesture<Camera> => {
    let over = false;
    return {
      preview: (camera) => !over && workspace.setPane(number, { camera }),
      commit: () => {
        over = true;
      },
      cancel: () => {
        if (!over) workspace.setPane(number, { camera: before });
        over = true;
      },
      isOver: () => over,
    };
  };

  const workspace: Workspace = {
    getState: get,
    subscribe: store.subscribe,
    getInitialState: store.getInitialState,
    set: (changes) => {
      set(changes);
      if ("handle" in changes) tellAll();
    },
    begin: (label) => hand.begin(label),
    letGo: () => hand.letGo(),
    beginCamera: (number, label) => {
      const free = get().panes[number]?.camera;
      if (free) return beginFreeCamera(number, free);
      const gesture = hand.begin(label);
      return {
        ...gesture,
        preview: (camera) => gesture.preview(cameraPatch(get().committed.camera, camera)),
      };
    },
    commit: (patch, label) => {
      const gesture = hand.begin(label);
      gesture.preview(patch);
      gesture.commit();
    },
    undo: () => {
      hand.letGo();
      if (!get().canUndo) return;
      socket.undo();
      set({ saved: false });
    },
    redo: () => {
      if (!get().canRedo) return;
      socket.redo();
      set({ saved: false });
    },
    setRunning: (running) => socket.setRunning(running),
    setPane: (number, changes) => {
      set((s) => withPane(s, number, changes));
      tellPane(number);
    },
    cameraOf: (number) => get().panes[number]?.camera ?? get().scene.camera,
    commitCamera: (number, camera, label) => {
      const gesture = workspace.beginCamera(number, label);
      gesture.preview(camera);
      gesture.commit();
    },
    toggleSecond: () => {
      const { panes, scene } = get();
      if (panes.length === 2) {
        set({ panes: [panes[0]], active: SHOT, maximised: null, locked: false });
        socket.closePane(FREE);
      } else set({ panes: [panes[0], newPane(scene.camera)], active: FREE, maximised: null, locked: true });
      tellAll();
    },
    maximise: (maximised) => {
      set((s) => ({ maximised, active: maximised ?? s.active }));
      tellAll();
    },
    setVisible: (visible) => {
      windowVisible = visible;
      tellAll();
    },
    pick: async (pane, x, y) =>
      (await socket.ask<{ found: Found | null }>("pick", pane, { x, y }))?.found ?? null,
    values: async (pane, x, y) =>
      (await socket.ask<{ values: PixelValues | null }>("values", pane, { x, y }))?.values ?? null,
    bounds: async (parts) =>
      (await socket.ask<{ box: [number[], number[]] | null }>("bounds", SHOT, { parts }))?.box ?? null,
    frameParts: async (pane, parts) => {
      const before = JSON.stringify(workspace.cameraOf(pane));
      const answer = await socket.ask<{ camera: Camera | null }>("fit", pane, { parts });
      // Whoever has moved the camera since is somewhere else by now, and wants to stay there.
      if (answer?.camera && JSON.stringify(workspace.cameraOf(pane)) === before)
        workspace.commitCamera(pane, answer.camera, parts ? "Frame the selection" : "Fit to asset");
    },
    lookFrom: async (direction) => {
      if (get().panes.length === 1) workspace.toggleSecond();
      const answer = await socket.ask<{ camera: Camera | null }>("fit", FREE, { direction });
      if (answer?.camera) workspace.setPane(FREE, { camera: answer.camera });
    },
    select: (parts, how = "only") => {
      const { selection } = get();
      const added = parts.filter((key) => !selection.includes(key));
      // Adding what is there already takes it out.
      const next =
        how === "only"
          ? parts
          : added.length > 0
            ? [...selection, ...added]
            : selection.filter((k) => !parts.includes(k));
      set({ selection: next, light: next.length > 0 ? null : get().light });
      tellAll();
    },
    chooseLight: (light) => {
      set({ light });
      if (light !== null && get().selection.length > 0) workspace.select([]);
    },
    go: (stop) => {
      set({ stop, panels: true });
      if (get().selection.length > 0) tellAll();
    },
    togglePanels: () => set((s) => ({ panels: !s.panels })),
    toggleAlone: () => set((s) => ({ alone: !s.alone })),
    notify,
    dismiss: (notice) => set((s) => ({ notices: s.notices.filter((n) => n !== notice) })),
    close: () => {
      hand.letGo();
      socket.close();
    },
  };
  return workspace;
}
