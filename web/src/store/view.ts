/**
 * What this window shows and what the person has chosen in it: panes, stop, tool, selection. None of it is part of the
 * document. Comes in: pictures and actions. Goes out: what the panes are to show.
 */
import type { Camera, DecalKind, ServerMessage } from "../api/types";
import type { Frame } from "../socket/frame";
import type { ViewportSocket } from "../socket/viewport";
import { type GuideKind, MARGIN } from "../viewport/guides";
import type { Vector } from "../viewport/vectors";
import type { DocumentState } from "./document";
import { keep, kept } from "./kept";
import { FREE, newPane, type Pane, type PaneNumber, paneMessage, SHOT } from "./panes";
import type { Slice } from "./slice";

export const STOPS = ["asset", "materials", "light", "camera", "look", "compare", "print"] as const;
export type Stop = (typeof STOPS)[number];
/** What a press in the picture does: turn the camera, draw a loupe, set the focus, or put a decal there. */
export type Tool = "camera" | "area" | "loupe" | "focus" | "stick" | "walk" | LightTool;
/** What a press does with light: turn the environment, drag a shadow, a highlight, the aim; put a card; take a grey card. */
export type LightTool = "turn" | "throw" | "glint" | "aim" | "card" | "grey" | "meter";
export const LIGHT_TOOLS: readonly Tool[] = [
  "turn",
  "throw",
  "glint",
  "aim",
  "card",
  "grey",
  "meter",
] satisfies LightTool[];
export type Handle = "move" | "turn" | "scale" | null;

export interface Metered {
  pane: PaneNumber;
  points: readonly Vector[];
}

export interface Turning {
  about: "target" | "pressed";
  horizon: "level" | "free";
}

/** How many takes are compared at once. */
export const MOST_COMPARED = 4;
/** None; the sheet; a take by its number; several, two at least, against the first of them. */
export type TakesShown = null | "sheet" | number | readonly number[];

/** From (x, y) to (x, y), in shares of the picture's width and height. */
export type DrawnLine = [number, number, number, number];

/** Two edges of each of two level directions that are square to one another; where the asset is to stand. */
export interface Matching {
  along: [DrawnLine, DrawnLine];
  across: [DrawnLine, DrawnLine];
  foot: [number, number];
}

export interface ViewState {
  panes: readonly [Pane, ...Pane[]];
  active: PaneNumber;
  maximised: PaneNumber | null;
  /** The shot's camera does not follow the hand in the picture; the drawer still changes it. */
  locked: boolean;
  stop: Stop;
  panels: boolean;
  /** Whether the time line is unfolded, and which of its moves is edited. */
  timeline: boolean;
  move: string | null;
  alone: boolean;
  readout: boolean;
  palette: boolean;
  tool: Tool;
  handle: Handle;
  selection: string[];
  light: string | null;
  /** Others that are edited with the chosen light. */
  besides: readonly string[];
  /** The card of the environment that is in hand. */
  card: string | null;
  /** What of the takes lies over the picture: their sheet, one of them, or two against each other. */
  takes: TakesShown;
  /** Guides over the shot's frame. */
  guides: readonly GuideKind[];
  /** Width of the margins of one's own, as a share of the frame's shorter side [%]. */
  margin: number;
  /** How much of the frame the asset fills when it is fitted [%]. */
  fills: number;
  /** Whether the focus goes on following what it is set on. */
  follows: boolean;
  /** What an orbit turns about, and whether the horizon stays level. */
  turning: Turning;
  /** How much of the drawing of a layout is seen over the picture [%]. */
  layoutSeen: number;
  /** Lines that are drawn over a photograph, to match the camera to it. */
  matching: Matching | null;
  /** Whether the map that is all around lies unrolled over the picture. */
  unrolled: boolean;
  /** Points [m] that the meter was held at in a pane: their light is compared. */
  metered: Metered;
  /** The decal that is in hand, and what the next one is to be. */
  decal: string | null;
  sticking: DecalKind;
  /** The input whose placement is in hand, and what that is called. */
  placing: { at: readonly string[]; label: string } | null;
  /** Groups of controls that the person has unfolded or folded, by their key. */
  unfolded: Record<string, boolean>;
}

export interface ViewActions {
  set: (
    changes: Partial<
      Pick<
        ViewState,
        | "tool"
        | "handle"
        | "palette"
        | "readout"
        | "active"
        | "locked"
        | "decal"
        | "sticking"
        | "placing"
        | "card"
        | "metered"
        | "unrolled"
        | "matching"
        | "takes"
        | "timeline"
        | "move"
      >
    >,
  ) => void;
  setPane: (pane: PaneNumber, changes: Partial<Pane>) => void;
  cameraOf: (pane: PaneNumber) => Camera;
  /** Open the free view, or close whatever is beside the shot. */
  toggleSecond: () => void;
  /** Show the document under something else beside the shot, by the same camera, in a pane that is there or the next. */
  pair: (under: NonNullable<Pane["under"]>, number?: PaneNumber) => void;
  closeBeside: (number: PaneNumber) => void;
  maximise: (pane: PaneNumber | null) => void;
  setVisible: (visible: boolean) => void;
  select: (parts: string[], how?: "only" | "add") => void;
  showMargin: (share: number) => void;
  fill: (share: number) => void;
  follow: (follows: boolean) => void;
  turn: (changes: Partial<Turning>) => void;
  seeLayout: (share: number) => void;
  showGuides: (guides: readonly GuideKind[]) => void;
  /** Choose a light alone, or take one to those that are edited together, or away from them. */
  chooseLight: (light: string | null, how?: "only" | "add") => void;
  go: (stop: Stop) => void;
  unfold: (group: string, isOpen: boolean) => void;
  togglePanels: () => void;
  toggleAlone: () => void;
}

const GUIDES = "guides";
const MARGINS = "frame.margin";
const FILLS = "frame.fills";
const [FOLLOWS, TURNING, LAYOUT] = ["focus.follows", "orbit", "layout.seen"];
const UNFOLDED = "unfolded";

export const isStop = (name: string | undefined): name is Stop => STOPS.includes(name as Stop);

export const openedView = (stop: Stop): ViewState => ({
  panes: [newPane(null)],
  active: SHOT,
  maximised: null,
  locked: false,
  stop,
  panels: true,
  timeline: false,
  move: null,
  alone: false,
  readout: false,
  palette: false,
  tool: "camera",
  handle: null,
  selection: [],
  light: null,
  besides: [],
  card: null,
  metered: { pane: SHOT, points: [] },
  takes: null,
  guides: kept<readonly GuideKind[]>(GUIDES, []),
  margin: kept(MARGINS, MARGIN),
  fills: kept(FILLS, 89),
  follows: kept(FOLLOWS, false),
  turning: kept<Turning>(TURNING, { about: "target", horizon: "level" }),
  layoutSeen: kept(LAYOUT, 50),
  matching: null,
  unrolled: false,
  decal: null,
  sticking: "text",
  placing: null,
  unfolded: kept(UNFOLDED, {}),
});

/** Where the selection is outlined; at the others nothing lies over the picture that was not asked for. */
const OUTLINED: Stop[] = ["asset", "materials"];

export interface ViewSlice extends ViewActions {
  receive: (message: ServerMessage) => void;
  take: (frame: Frame) => void;
}

export function viewSlice(
  { getState: get, setState: set }: Slice<ViewState & DocumentState>,
  socket: ViewportSocket,
): ViewSlice {
  let windowVisible = true;

  const withPane = (s: ViewState, number: number, changes: Partial<Pane>): Partial<ViewState> => {
    if (!s.panes[number]) return {};
    const changed = (pane: Pane, at: number) => (at === number ? { ...pane, ...changes } : pane);
    const [shot, ...others] = s.panes;
    return { panes: [changed(shot, SHOT), ...others.map((pane, place) => changed(pane, place + 1))] };
  };

  const tellPane = (number: PaneNumber) => {
    const { panes, selection, maximised, stop, handle } = get();
    const pane = panes[number];
    const outlined = OUTLINED.includes(stop) || handle !== null ? selection : [];
    const visible = windowVisible && (maximised === null || maximised === number);
    if (pane)
      socket.setPane(paneMessage(number, pane, outlined, stop === "asset" ? pane.fault : null, visible));
  };
  const tellAll = () => {
    for (const number of get().panes.keys()) tellPane(number as PaneNumber);
  };

  /** What is gone from the document cannot be selected any more. */
  const forgetWhatIsGone = () => {
    const { selection, light, card, decal, scene } = get();
    if (card !== null && !(card in scene.environment.cards)) set({ card: null });
    if (decal !== null && !(decal in scene.decals)) set({ decal: null });
    const { besides } = get();
    const others = besides.filter((key) => key in scene.lights);
    if (light !== null && !(light in scene.lights))
      set({ light: others[0] ?? null, besides: others.slice(1) });
    else if (others.length < besides.length) set({ besides: others });
    if (selection.every((key) => key in scene.parts)) return;
    set({ selection: selection.filter((key) => key in scene.parts) });
    tellAll();
  };

  const select = (parts: string[], how: "only" | "add" = "only") => {
    const { selection, light } = get();
    const added = parts.filter((key) => !selection.includes(key));
    // Adding what is there already takes it out.
    const next =
      how === "only"
        ? parts
        : added.length > 0
          ? [...selection, ...added]
          : selection.filter((k) => !parts.includes(k));
    set({ selection: next, light: next.length > 0 ? null : light, ...(next.length > 0 && { besides: [] }) });
    tellAll();
  };

  const receive = (message: ServerMessage) => {
    switch (message.type) {
      case "document":
      case "edited":
        forgetWhatIsGone();
        break;
      case "status": {
        const { type: _, pane, ...status } = message;
        set((s) => withPane(s, pane, { status }));
        break;
      }
      case "scale":
        set((s) => withPane(s, message.pane, { ticks: { unit: message.unit, ticks: message.ticks } }));
        break;
    }
  };

  return {
    receive,
    take: (frame) => set((s) => withPane(s, frame.pane, { [frame.kind]: frame })),
    set: (changes) => {
      set(changes);
      if ("handle" in changes) tellAll();
    },
    setPane: (number, changes) => {
      set((s) => withPane(s, number, changes));
      tellPane(number);
    },
    cameraOf: (number) => get().panes[number]?.camera ?? get().scene.camera,
    toggleSecond: () => {
      const { panes, scene } = get();
      if (panes.length > 1) {
        set({ panes: [panes[0]], active: SHOT, maximised: null, locked: false });
        for (let number = 1; number < panes.length; number++) socket.closePane(number);
      } else set({ panes: [panes[0], newPane(scene.camera)], active: FREE, maximised: null, locked: true });
      tellAll();
    },
    pair: (under, number = FREE) => {
      const [shot, ...others] = get().panes;
      // A free view gives its place to the pair.
      const beside = others.filter((pane) => pane.under);
      beside[number - 1] = { ...(beside[number - 1] ?? newPane(null)), under };
      set({ panes: [shot, ...beside], maximised: null, locked: false });
      tellAll();
    },
    closeBeside: (number) => {
      const [shot, ...others] = get().panes;
      const left = others.filter((_, place) => place !== number - 1);
      set({ panes: [shot, ...left], active: SHOT, maximised: null });
      // Those behind it move up: the last number is the one that nobody has any more.
      socket.closePane(others.length);
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
    select,
    chooseLight: (light, how = "only") => {
      const together = [get().light, ...get().besides].filter((key) => key !== null);
      if (how === "add" && light !== null && together.length > 0) {
        const isThere = together.includes(light);
        const next = isThere ? together.filter((key) => key !== light) : [...together, light];
        set({ light: next[0] ?? null, besides: next.slice(1), card: null });
      } else set({ light, besides: [], ...(light !== null && { card: null }) });
      if (light !== null && get().selection.length > 0) select([]);
    },
    go: (stop) => {
      set({ stop, panels: true });
      if (get().selection.length > 0) tellAll();
    },
    unfold: (group, isOpen) => {
      set((s) => ({ unfolded: { ...s.unfolded, [group]: isOpen } }));
      keep(UNFOLDED, get().unfolded);
    },
    showMargin: (margin) => {
      set({ margin });
      keep(MARGINS, margin);
    },
    fill: (fills) => {
      set({ fills });
      keep(FILLS, fills);
    },
    follow: (follows) => {
      set({ follows });
      keep(FOLLOWS, follows);
    },
    turn: (changes) => {
      set((s) => ({ turning: { ...s.turning, ...changes } }));
      keep(TURNING, get().turning);
    },
    seeLayout: (layoutSeen) => {
      set({ layoutSeen });
      keep(LAYOUT, layoutSeen);
    },
    showGuides: (guides) => {
      set({ guides });
      keep(GUIDES, guides);
    },
    togglePanels: () => set((s) => ({ panels: !s.panels })),
    toggleAlone: () => set((s) => ({ alone: !s.alone })),
  };
}
