/** The kinds of lights, as the core describes them. */
import { fields, lights } from "../api/fields.gen";
import type { Light } from "../api/types";

export type LightKind = keyof typeof lights;

export const KINDS = Object.keys(lights) as LightKind[];

/** "Rectangle" */
export const nameOf = (kind: LightKind): string => lights[kind].label;

/** Names of the lengths that say how large a light is: what grows when it is scaled by hand. */
export const extentsOf = (kind: LightKind): readonly string[] => lights[kind].extents;

/** Name of the model that describes a kind's fields. */
export const modelOf = (kind: LightKind): (typeof lights)[LightKind]["model"] => lights[kind].model;

/** Units in which a kind can be measured, the first of them that of a new one. */
export const unitsOf = (kind: LightKind) =>
  Object.keys(fields[modelOf(kind)].unit.options) as Light["unit"][];
