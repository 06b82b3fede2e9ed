/** The panes of a window: the shot, and beside it a free one, or up to three under something else. Pure functions. */
import type { Camera, Look, Status } from "../api/types";
import type { Frame } from "../socket/frame";
import type { Fault, Loupe, PaneMessage, Scale, Way } from "../socket/panes";

export type PaneNumber = 0 | 1 | 2 | 3;
export const MOST_PANES = 4;
export const SHOT: PaneNumber = 0;
export const FREE: PaneNumber = 1;

/** The part of the picture that is magnified: CSS pixels a pixel of the frame, and what lies in the middle. */
export interface Magnifier {
  factor: number;
  x: number;
  y: number;
}

export interface Pane {
  width: number;
  height: number;
  scale: Scale;
  way: Way;
  wire: boolean;
  focusPlane: boolean;
  /** What of the import report is drawn over the picture, by the kind of its finding. */
  fault: Fault | null;
  camera: Camera | null;
  /** What it shows the document under, of a pair; null is the document as it is. */
  under: PaneMessage["under"] | null;
  /** A look of its own, with its name on the shelf; null is that of what it shows. */
  look: { name: string; look: Look } | null;
  loupe: Loupe | null;
  magnifier: Magnifier | null;
  frame: Frame | null;
  overlay: Frame | null;
  status: Status | null;
  /** What false colours mean, and whether lines of equal light are drawn over them. */
  ticks: { unit: string; ticks: [number, string][] } | null;
  isolines: boolean;
  /** How the look is looked at: before it, before it left of an edge, one effect alone, with marks. */
  before: boolean;
  edge: number | null;
  solo: string | null;
  marks: PaneMessage["marks"];
}

/** The names of what is seen of a pane, for tests and for saving pictures. */
export const idOf = (number: PaneNumber, what: "picture" | "overlay" | "surround") =>
  number === SHOT ? what : number === FREE ? `free-${what}` : `free-${what}-${number}`;

/** What a pane is called. */
export const nameOf = (number: PaneNumber, isPair: boolean) =>
  number === SHOT ? "Shot" : !isPair ? "Free" : number === FREE ? "Beside" : `Beside ${number}`;

export const newPane = (camera: Camera | null): Pane => ({
  width: 960,
  height: 600,
  scale: "fit",
  way: "proof",
  wire: false,
  focusPlane: false,
  fault: null,
  camera,
  under: null,
  look: null,
  loupe: null,
  magnifier: null,
  frame: null,
  overlay: null,
  status: null,
  ticks: null,
  isolines: false,
  before: false,
  edge: null,
  solo: null,
  marks: "none",
});

/** What the server is told. */
export function paneMessage(
  number: PaneNumber,
  pane: Pane,
  selection: string[],
  fault: Fault | null,
  visible: boolean,
): Omit<PaneMessage, "serial"> {
  const { width, height, scale, way, wire, focusPlane, camera, loupe } = pane;
  const under = pane.under ?? { edition: null, shot: null, conditions: null };
  const { isolines, before, edge, solo, marks } = pane;
  const size = { width: Math.max(width, 16), height: Math.max(height, 16) };
  return {
    pane: number,
    ...size,
    scale,
    way,
    wire,
    focus_plane: focusPlane,
    fault,
    camera,
    under,
    look: pane.look?.look ?? null,
    isolines,
    before,
    edge,
    solo,
    marks,
    loupe,
    selected: selection,
    visible,
  };
}
