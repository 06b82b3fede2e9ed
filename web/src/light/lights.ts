/** Lights of the document: what a new one is like, and which controls each kind of shape has. */
import { fields } from "../api/fields.gen";
import type { Light } from "../api/types";

export type LightKind = Light["kind"];

export const KINDS: Record<LightKind, string> = {
  rectangle: "Rectangle",
  disk: "Disk",
  sphere: "Sphere",
  tube: "Tube",
  point: "Point",
  spot: "Spot",
  directional: "Directional",
};

const SIZES: Record<LightKind, (keyof Light)[]> = {
  rectangle: ["width", "height", "roll"],
  disk: ["radius"],
  sphere: ["radius"],
  tube: ["height", "radius", "roll"],
  point: [],
  spot: ["cone", "softness"],
  directional: ["spread"],
};

export const sizesOf = (kind: LightKind): string[] => SIZES[kind];

/** Units in which a kind can be measured: only a surface has a luminance, a distant light only what falls. */
export function unitsOf(kind: LightKind): Light["unit"][] {
  if (kind === "directional") return ["lx"];
  return kind === "point" || kind === "spot" ? ["lm", "cd", "lx"] : ["lm", "cd", "lx", "cd/m²"];
}

/** Whether its light may follow a measured distribution: one of no size has no other shape. */
export const takesProfile = (kind: LightKind): boolean => kind === "point" || kind === "spot";

/** A new light of a kind, whole, with the core's own defaults. */
export function newLight(kind: LightKind, name: string): Light {
  const defaults = Object.fromEntries(
    Object.entries(fields.Light).map(([field, described]) => [field, described.default]),
  ) as unknown as Light;
  const unit = unitsOf(kind)[0] ?? "lm";
  return { ...defaults, name, kind, unit, profile: null, amount: unit === "lx" ? 1000 : defaults.amount };
}

/** "light-3": the first key that is free. */
export function freeKey(taken: string[], stem = "light"): string {
  let number = 1;
  while (taken.includes(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}
