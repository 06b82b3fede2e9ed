/** Lights of the document: what a new one is like, and which controls each kind of shape has. */
import { fields, lights } from "../api/fields.gen";
import type { Light } from "../api/types";

export type LightKind = keyof typeof lights;

export const KINDS = Object.keys(lights) as LightKind[];

/** "Rectangle" */
export const nameOf = (kind: LightKind): string => lights[kind].fresh.name;

const SIZES: Record<LightKind, string[]> = {
  rectangle: ["width", "height", "roll"],
  disk: ["radius"],
  sphere: ["radius"],
  tube: ["length", "radius", "roll"],
  point: [],
  spot: ["cone", "softness"],
  directional: ["spread"],
};

export const sizesOf = (kind: LightKind): string[] => SIZES[kind];

/** What grows when a light is scaled by hand. */
export const extentsOf = (kind: LightKind): string[] =>
  SIZES[kind].filter((name) => ["width", "height", "length", "radius"].includes(name));

/** Name of the model that describes a kind's fields. */
export const modelOf = (kind: LightKind): (typeof lights)[LightKind]["model"] => lights[kind].model;

/** Units in which a kind can be measured, the first of them that of a new one. */
export const unitsOf = (kind: LightKind): readonly Light["unit"][] => fields[modelOf(kind)].unit.options;

/** A new light of a kind, whole, with the core's own defaults. */
export const newLight = (kind: LightKind, name: string) =>
  ({ ...lights[kind].fresh, name }) as unknown as Light;

/** "light-3": the first key that is free. */
export function freeKey(taken: string[], stem = "light"): string {
  let number = 1;
  while (taken.includes(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}
