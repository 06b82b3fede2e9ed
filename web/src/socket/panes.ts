/** What is said to the server about a pane (server/protocol/panes.py), and what it answers to questions. */
import type { ways } from "../api/fields.gen";
import type { components } from "../api/schema";
import type { Vector } from "./frame";

export type Way = keyof typeof ways;
export type Scale = "fit" | "1" | "1/2" | "1/4";
/** Left, top, right, bottom as shares of the picture. */
export type Loupe = [number, number, number, number];

/** A fault of meshes that has a place on them. */
export type Fault = NonNullable<PaneMessage["fault"]>;

export type PaneMessage = Omit<components["schemas"]["PaneMessage"], "type">;

/** What lies under a point of the picture; part null is the ground. */
export type Found = components["schemas"]["Found"];

export interface PixelValues {
  pixel: [number, number];
  linear: Vector;
  display: Vector;
  /** CIEDE2000 from the brand colours of the part that it shows. */
  brands?: { name: string; delta_e: number }[];
}
