/** Inputs of materials: which parameters take one, what kinds of sources there are, and where an input lies. */
import { inputParameters, sources } from "../api/fields.gen";
import type { Parameter, Scene, SourceKind } from "../api/types";
import type { Place } from "./fields";

export type { Parameter, SourceKind };
export type Input = NonNullable<Scene["materials"][string]["inputs"][Parameter]>;

export const KINDS = Object.keys(sources) as SourceKind[];

export const takesInput = (name: string): name is Parameter =>
  (inputParameters as readonly string[]).includes(name);

export const sourceName = (kind: SourceKind): string => sources[kind].label;

/** Name of the model that describes a source's fields. */
export const sourceModel = (kind: SourceKind): (typeof sources)[SourceKind]["model"] => sources[kind].model;

export const isPlaced = (kind: SourceKind): boolean => sources[kind].placed;

/** Kinds that are computed for each place, and can displace. */
export const PATTERNS = KINDS.filter((kind) => isPlaced(kind) && kind !== "image" && kind !== "picture");

export const inputPlace = (material: Place, name: Parameter): Place => [...material, "inputs", name];

/** What says of the window whether the controls of an input are unfolded. */
export const inputKey = (name: Parameter) => `input.${name}`;
