/** The state of one open project, outside React: its slices put together over one store and one socket. */
import { createStore, type StoreApi } from "zustand/vanilla";
import type {
  Arrangement,
  Camera,
  Color,
  Decal,
  DecalKind,
  Density,
  Doubt,
  LayerInput,
  Operation,
  Parameter,
  SourceKind,
} from "../api/types";
import type { Found, Loupe, PixelValues } from "../socket/panes";
import {
  type CameraQuestion,
  type FidelityQuestion,
  type LightQuestion,
  type LookQuestion,
  type MotionQuestion,
  type VariantQuestion,
  ViewportSocket,
} from "../socket/viewport";
import {
  type DocumentActions,
  type DocumentState,
  documentSlice,
  type Opening,
  openedDocument,
} from "./document";
import type { Gesture } from "./hand";
import { FREE, type PaneNumber, SHOT } from "./panes";
import { cameraPatch } from "./patch";
import { type Brought, openedSession, type SessionActions, type SessionState, sessionSlice } from "./session";
import { openedView, type Stop, type ViewActions, type ViewState, viewSlice } from "./view";

export type WorkspaceState = DocumentState & SessionState & ViewState;

/** What is about a pane's camera, and what only the render host can answer. */
interface PictureActions {
  /** A gesture for the camera of a pane; that of the free view is no part of the document. */
  beginCamera: (pane: PaneNumber, label: string) => Gesture<Camera>;
  commitCamera: (pane: PaneNumber, camera: Camera, label: string) => void;
  pick: (pane: PaneNumber, x: number, y: number) => Promise<Found | null>;
  /** Keys of the parts that are seen within a rectangle of the picture. */
  partsWithin: (pane: PaneNumber, edges: Loupe) => Promise<string[]>;
  values: (pane: PaneNumber, x: number, y: number) => Promise<PixelValues | null>;
  /** The box around parts, or around all that are visible [m]. */
  /** How many triangles parts have; null while nothing can be said. */
  density: (parts: string[]) => Promise<Density | null>;
  /** What of materials no real thing has. */
  doubts: (materials: string[]) => Promise<Doubt[] | null>;
  bounds: (parts: string[] | null) => Promise<[number[], number[]] | null>;
  frameParts: (pane: PaneNumber, parts: string[] | null) => Promise<void>;
  lookFrom: (direction: "front" | "side" | "top") => Promise<void>;
  /** Add a light that suits the asset, or one over a spot; it is chosen then. */
  addLight: (kind: string, over?: Found) => Promise<void>;
  /** Add a set of parts. */
  addSet: (parts: string[]) => Promise<void>;
  /** Give a parameter of materials an input, or the one that it has another source. */
  addInput: (materials: string[], parameter: Parameter, kind: SourceKind) => Promise<void>;
  /** Lay a material over others. */
  addLayer: (materials: string[], over: string) => Promise<void>;
  /** Give a layer a mask of a kind, or what breaks that up. */
  addMask: (material: string, layer: number, which: LayerInput, kind: SourceKind) => Promise<void>;
  /** Displace parts by a pattern, in the place of an image. */
  addRelief: (parts: string[], kind: SourceKind) => Promise<void>;
  /** Put a new decal of a kind where the picture is pressed; it is chosen then. */
  stick: (pane: PaneNumber, x: number, y: number, kind: DecalKind) => Promise<boolean>;
  /** The patch that brings a decal to where the picture is pressed; null where it cannot lie. */
  stuck: (pane: PaneNumber, x: number, y: number, decal: string) => Promise<Operation[] | null>;
  /** What share of even white light a surface sends to the camera; null where there is no part. */
  sharp: (pane: PaneNumber) => Promise<Sharp | null>;
  reflectance: (pane: PaneNumber, x: number, y: number) => Promise<Reflectance | null>;
  /** Height over width of what is on a decal; null where it cannot be had. */
  decalShape: (decal: string) => Promise<number | null>;
  /** Give parts materials of their own, or remove those that nothing wears. */
  wardrobe: (how: "own" | "unworn", parts: string[]) => Promise<void>;
  /** Do something with parts as wholes; copies that it makes are selected then. */
  arrange: (operation: Arrangement) => Promise<void>;
  /** Split parts into their pieces, or merge them into one; what it makes is selected then. */
  cut: (how: "split" | "merge", parts: string[]) => Promise<void>;
  /** Take a clip, by its name, or a camera, by its number, of the asset's file. */
  takeFromFile: (what: { clip: string } | { camera: number }) => Promise<void>;
  /** Ask the render host something about light. */
  askHost: <Answer>(type: HostQuestion, pane: PaneNumber, question?: object) => Promise<Answer | null>;
  /** Ask for a patch about light, looks or shots and commit it; the key of what is new, null where it cannot be had. */
  commitBy: (type: HostQuestion, pane: PaneNumber, question?: object) => Promise<string | null>;
}

export interface Workspace extends DocumentActions, SessionActions, ViewActions, PictureActions {
  getState: () => WorkspaceState;
  subscribe: StoreApi<WorkspaceState>["subscribe"];
  getInitialState: () => WorkspaceState;
  close: () => void;
}

type HostQuestion =
  | LightQuestion
  | LookQuestion
  | CameraQuestion
  | MotionQuestion
  | VariantQuestion
  | FidelityQuestion
  | "take"
  | "reopen";

/** The part that a path of a patch adds, if it adds one. */
const partOf = (path: string) => /^\/parts\/([^/]+)$/.exec(path)?.[1] ?? [];

/** Of the light that a perfect matt white would send: linear Rec. 709, and CIE L*a*b* in D65. */
export interface Shares {
  linear: Color;
  lab: Color;
}

/** Depths [m] between which everything is sharp: both null where all is, `far` where it is as far as one sees. */
export interface Sharp {
  near: number | null;
  far: number | null;
  doubts: { text: string; patch: Operation[] }[];
}

/** In even white light, and in the light that is there; null where that cannot be said. */
export interface Reflectance {
  even: Shares | null;
  here: Shares | null;
}

export interface NewEntry {
  key: string;
  label: string;
  patch: Operation[];
}

function pictureActions(
  socket: ViewportSocket,
  document: DocumentActions,
  view: ViewActions,
  session: SessionActions,
  get: () => WorkspaceState,
): PictureActions {
  /** The camera of the free view: it is the window's own, and nothing is stored. */
  const beginFreeCamera = (number: PaneNumber, before: Camera): Gesture<Camera> => {
    let over = false;
    return {
      preview: (camera) => !over && view.setPane(number, { camera }),
      commit: () => {
        over = true;
      },
      cancel: () => {
        if (!over) view.setPane(number, { camera: before });
        over = true;
      },
      isOver: () => over,
    };
  };
  const beginCamera = (number: PaneNumber, label: string): Gesture<Camera> => {
    const free = get().panes[number]?.camera;
    if (free) return beginFreeCamera(number, free);
    const gesture = document.begin(label);
    return {
      ...gesture,
      preview: (camera) => gesture.preview(cameraPatch(get().committed.camera, camera)),
    };
  };
  const commitCamera = (number: PaneNumber, camera: Camera, label: string) => {
    const gesture = beginCamera(number, label);
    gesture.preview(camera);
    gesture.commit();
  };
  /** Commit an entry that the host has made; null when it could not. */
  const made = async (
    type:
      | "make_light"
      | "make_set"
      | "make_input"
      | "make_layer"
      | "make_mask"
      | "make_relief"
      | "wardrobe"
      | "arrange"
      | "cut"
      | "from_file",
    question: object,
  ): Promise<NewEntry | null> => {
    const answer = await document.expecting(socket.ask<{ made: NewEntry | null }>(type, SHOT, question));
    const entry = answer?.made ?? null;
    if (entry && entry.patch.length > 0) document.commit(entry.patch, entry.label);
    else if (entry) session.notify({ severity: "info", text: `${entry.label}: that is so already.` });
    else session.notify({ severity: "info", text: "The proof is not ready yet; try again in a moment." });
    return entry;
  };
  /** As `made`; the parts that it adds are selected then. */
  const making = async (type: "arrange" | "cut", question: object) => {
    const before = get().scene.parts;
    const entry = await made(type, question);
    const fresh = entry?.patch.flatMap(({ op, path }) => (op === "add" ? partOf(path) : [])) ?? [];
    if (fresh.length > 0) view.select(fresh.filter((key) => !(key in before)));
  };
  return {
    beginCamera,
    commitCamera,
    pick: async (pane, x, y) =>
      (await socket.ask<{ found: Found | null }>("pick", pane, { x, y }))?.found ?? null,
    partsWithin: async (pane, edges) =>
      (await socket.ask<{ parts: string[] }>("area", pane, { edges }))?.parts ?? [],
    values: async (pane, x, y) =>
      (await socket.ask<{ values: PixelValues | null }>("values", pane, { x, y }))?.values ?? null,
    bounds: async (parts) =>
      (await socket.ask<{ box: [number[], number[]] | null }>("bounds", SHOT, { parts }))?.box ?? null,
    density: (parts) => socket.ask<Density>("density", SHOT, { parts }),
    doubts: async (materials) =>
      (await socket.ask<{ doubts: Doubt[] }>("possible", SHOT, { materials }))?.doubts ?? null,
    frameParts: async (pane, parts) => {
      const before = view.cameraOf(pane);
      const answer = await socket.ask<{ camera: Camera | null }>("fit", pane, {
        parts,
        share: get().fills / 100,
      });
      // Whoever has moved the camera since is somewhere else by now, and wants to stay there.
      if (answer?.camera && cameraPatch(before, view.cameraOf(pane)).length === 0)
        commitCamera(pane, answer.camera, parts ? "Frame the selection" : "Fit to asset");
    },
    lookFrom: async (direction) => {
      if (get().panes.length === 1) view.toggleSecond();
      const answer = await socket.ask<{ camera: Camera | null }>("fit", FREE, { direction });
      if (answer?.camera) view.setPane(FREE, { camera: answer.camera });
    },
    addLight: async (kind, over) => {
      const spot = over && { position: over.position, normal: over.normal, depth: over.depth };
      const entry = await made("make_light", { kind, over: spot ?? null });
      if (entry) view.chooseLight(entry.key);
    },
    addSet: async (parts) => {
      await made("make_set", { parts });
    },
    addInput: async (materials, parameter, kind) => {
      await made("make_input", { materials, parameter, kind });
    },
    addLayer: async (materials, over) => {
      await made("make_layer", { materials, over });
    },
    addMask: async (material, layer, which, kind) => {
      await made("make_mask", { material, layer, which, kind });
    },
    addRelief: async (parts, kind) => {
      await made("make_relief", { parts, kind });
    },
    stick: async (pane, x, y, kind) => {
      const asked = socket.ask<{ made: NewEntry | null }>("stick", pane, { x, y, kind });
      const answer = await document.expecting(asked);
      const entry = answer?.made;
      if (!entry) return false;
      document.commit(entry.patch, entry.label);
      view.set({ decal: entry.key });
      const { parts } = entry.patch[0]!.value as Decal;
      view.select(parts as string[]);
      return true;
    },
    sharp: (pane) => socket.ask<Sharp>("sharp", pane),
    reflectance: (pane, x, y) => socket.ask<Reflectance>("reflectance", pane, { x, y }),
    decalShape: async (decal) =>
      (await socket.ask<{ tall: number | null }>("decal_shape", SHOT, { decal }))?.tall ?? null,
    stuck: async (pane, x, y, decal) => {
      const answer = await socket.ask<{ made: NewEntry | null }>("stick", pane, { x, y, decal });
      return answer?.made?.patch ?? null;
    },
    wardrobe: async (how, parts) => {
      await made("wardrobe", { how, parts });
    },
    takeFromFile: async (what) => {
      await made("from_file", what);
    },
    cut: (how, parts) => making("cut", { how, parts }),
    askHost: (type, pane, question) => socket.ask(type, pane, question),
    commitBy: async (type, pane, question) => {
      const asked = socket.ask<{ made: NewEntry | null; problem?: string }>(type, pane, question);
      const answer = await document.expecting(asked);
      if (answer?.problem) session.notify({ severity: "info", text: answer.problem });
      const entry = answer?.made ?? null;
      if (entry && entry.patch.length > 0) document.commit(entry.patch, entry.label);
      return entry?.key ?? null;
    },
    arrange: (operation) => making("arrange", { operation }),
  };
}

/** Open a project at a stop: connects at once. */
export function openWorkspace(opening: Opening & Brought, stop: Stop = "asset"): Workspace {
  const store = createStore<WorkspaceState>(() => ({
    ...openedDocument(opening),
    ...openedSession(opening),
    ...openedView(stop),
  }));
  const socket = new ViewportSocket(opening.id, {
    onMessage: (message) => {
      document.receive(message);
      session.receive(message);
      view.receive(message);
    },
    onFrame: (frame) => view.take(frame),
    onConnection: (connection) => store.setState({ connection }),
  });
  const session = sessionSlice(store, socket);
  const document = documentSlice(store, socket, session.notify);
  const view = viewSlice(store, socket);
  const { getState, subscribe, getInitialState } = store;
  return {
    getState,
    subscribe,
    getInitialState,
    ...document,
    ...session,
    ...view,
    ...pictureActions(socket, document, view, session, getState),
    close: () => {
      document.letGo();
      socket.close();
    },
  };
}
