/** The kinds of lights, as the core describes them. */
import { lights } from "../api/fields.gen";

export type LightKind = keyof typeof lights;

export const KINDS = Object.keys(lights) as LightKind[];

/** "Rectangle" */
export const nameOf = (kind: LightKind): string => lights[kind].label;

/** Names of the lengths that say how large a light is: what grows when it is scaled by hand. */
export const extentsOf = (kind: LightKind): readonly string[] => lights[kind].extents;

/** Name of the model that describes a kind's fields. */
export const modelOf = (kind: LightKind): (typeof lights)[LightKind]["model"] => lights[kind].model;
