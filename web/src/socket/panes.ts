/** What is said to the server about a pane (server/viewport/messages.py), and what it answers to questions. */
import type { ways } from "../api/fields.gen";
import type { Camera } from "../api/types";
import type { Vector } from "./frame";

export type Way = keyof typeof ways;
export type Scale = "fit" | "1" | "1/2" | "1/4";
/** Left, top, right, bottom as shares of the picture. */
export type Loupe = [number, number, number, number];

export interface PaneMessage {
  pane: number;
  serial: number;
  width: number;
  height: number;
  scale: Scale;
  way: Way;
  wire: boolean;
  focus_plane: boolean;
  camera: Camera | null;
  loupe: Loupe | null;
  selected: string[];
  visible: boolean;
}

/** What lies under a point of the picture; part null is the ground. */
export interface Found {
  part: string | null;
  position: Vector;
  normal: Vector;
  depth: number;
}

export interface PixelValues {
  pixel: [number, number];
  linear: Vector;
  display: Vector;
}
