/**
 * The state of one open project, outside React. `scene` is the document as the person sees it, with the edit in
 * hand; `committed` is what the server has.
 */
import { createStore, type StoreApi } from "zustand/vanilla";
import type { Camera, Operation, Scene } from "../api/types";
import type { Frame } from "../socket/frame";
import { type Connection, type ServerMessage, type Status, ViewportSocket } from "../socket/viewport";
import { patched, replace } from "./patch";

export type Stop = "asset" | "materials" | "light" | "camera" | "print";
export type Notice = { severity: "info" | "warning" | "error"; text: string };

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
  host: "starting" | "ready" | "restarting" | "failed";
  running: boolean;
  status: Status | null;
  frame: Frame | null;
  stop: Stop;
  panels: boolean;
  selected: string | null;
  notices: Notice[];
}

export interface Workspace {
  getState: () => WorkspaceState;
  subscribe: StoreApi<WorkspaceState>["subscribe"];
  getInitialState: () => WorkspaceState;
  preview: (patch: Operation[]) => void;
  commit: (patch: Operation[], label: string) => void;
  abandon: () => void;
  undo: () => void;
  redo: () => void;
  setRunning: (running: boolean) => void;
  resize: (width: number, height: number) => void;
  pick: (x: number, y: number) => void;
  fit: () => void;
  select: (part: string | null) => void;
  go: (stop: Stop) => void;
  togglePanels: () => void;
  notify: (notice: Notice) => void;
  dismiss: (notice: Notice) => void;
  close: () => void;
}

interface Opening {
  id: number;
  name: string;
  scene: Scene;
  revision: number;
  can_undo: boolean;
  can_redo: boolean;
  problems: string[];
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
    running: true,
    status: null,
    frame: null,
    stop: "asset",
    panels: true,
    selected: null,
    notices: opening.problems.map((text) => ({ severity: "warning", text })),
  }));
  const set = store.setState;
  const get = store.getState;
  let dragging = false;

  const notify = (notice: Notice) =>
    set((s) =>
      s.notices.some((n) => n.text === notice.text) ? s : { notices: [...s.notices, notice].slice(-4) },
    );

  const onMessage = (message: ServerMessage) => {
    switch (message.type) {
      case "document":
        set((s) => ({
          committed: message.scene,
          // An edit in hand goes on over the new document; its release decides.
          scene: dragging ? s.scene : message.scene,
          revision: message.revision,
          canUndo: message.can_undo,
          canRedo: message.can_redo,
          selected: s.selected !== null && s.selected in message.scene.parts ? s.selected : null,
        }));
        break;
      case "committed":
        set({ saved: socket.saved });
        break;
      case "refused":
        set((s) => ({ saved: socket.saved, scene: s.committed }));
        notify({ severity: "error", text: message.message });
        break;
      case "host":
        set({ host: message.state });
        break;
      case "running":
        set({ running: message.running });
        break;
      case "status": {
        const { type: _, ...status } = message;
        set({ status });
        break;
      }
      case "picked":
        set((s) => ({ selected: message.part, stop: message.part ? "materials" : s.stop }));
        break;
      case "fitted":
        if (message.camera) workspace.commit(cameraPatch(message.camera), "Fit to asset");
        break;
      case "problems":
        for (const text of message.problems) notify({ severity: "warning", text });
        break;
      case "error":
        notify({ severity: "error", text: message.message });
        break;
      case "opened":
        break;
    }
  };

  const socket = new ViewportSocket(opening.id, {
    onMessage,
    onFrame: (frame) => set({ frame }),
    onConnection: (connection) => set({ connection }),
  });

  const workspace: Workspace = {
    getState: get,
    subscribe: store.subscribe,
    getInitialState: store.getInitialState,
    preview: (patch) => {
      dragging = true;
      set((s) => ({ scene: patched(s.committed, patch) }));
      socket.preview(patch);
    },
    commit: (patch, label) => {
      dragging = false;
      set((s) => ({ scene: patched(s.committed, patch), saved: false }));
      socket.edit(patch, label);
    },
    abandon: () => {
      dragging = false;
      set((s) => ({ scene: s.committed }));
      socket.preview([replace("/look/exposure", get().committed.look.exposure)]);
    },
    undo: () => get().canUndo && socket.undo(),
    redo: () => get().canRedo && socket.redo(),
    setRunning: (running) => socket.setRunning(running),
    resize: (width, height) => socket.resize(width, height),
    pick: (x, y) => socket.pick(x, y),
    fit: () => socket.fit(),
    select: (selected) => set({ selected }),
    go: (stop) => set({ stop, panels: true }),
    togglePanels: () => set((s) => ({ panels: !s.panels })),
    notify,
    dismiss: (notice) => set((s) => ({ notices: s.notices.filter((n) => n !== notice) })),
    close: () => socket.close(),
  };
  return workspace;
}

/** A patch that replaces the whole camera. */
export const cameraPatch = (camera: Camera): Operation[] => [replace("/camera", camera)];
