/** Fields of the document's models as the core describes them, and which of them have an effect. */
import { fields, groups } from "../api/fields.gen";
import type { Color } from "../api/types";
import { isSame } from "../store/patch";

export type ModelName = keyof typeof fields;

export interface Field {
  label: string;
  kind: "number" | "optional" | "color" | "choice" | "switch" | "place" | "";
  unit?: string;
  /** Name of the field that says the unit, of one whose unit is chosen. */
  unit_from?: string;
  minimum?: number;
  maximum?: number;
  soft_minimum?: number;
  soft_maximum?: number;
  step?: number;
  whole?: boolean;
  /** Of a time that is shown as a fraction of a second. */
  fraction?: boolean;
  scale?: "linear" | "logarithmic";
  /** Of one that can be off: the value it is first switched on with, and what it means that it is off. */
  on?: number;
  off?: string;
  /** Of a choice: how each word is shown. */
  options?: Record<string, string>;
  /** Name of the texture that it multiplies, and the channel of that; null is all. */
  map?: string;
  channel?: number | null;
  default: number | null | boolean | string | Color;
}

/** Another field that must be on, or be a word, for one to have an effect. */
interface Condition {
  field: string;
  word?: string;
}

export interface Row {
  field: string;
  when: readonly Condition[];
  /** A field that stands in for it while it is set. */
  unless?: string;
}

export interface Group {
  key: string;
  label: string;
  weight: string | null;
  rows: readonly Row[];
  sums: readonly { field: string; word: string }[];
}

/** Where an object lies in the document: the steps to it. */
export type Place = readonly string[];

/** A field as the core describes it; undefined for one that has no control, as a map has none. */
export const descriptionOf = (model: ModelName, name: string): Field | undefined =>
  (fields[model] as unknown as Record<string, Field>)[name];

export function described(model: ModelName, name: string): Field {
  const field = descriptionOf(model, name);
  if (!field) throw new Error(`${model} has no field ${name}`);
  return field;
}

export const groupsOf = (model: ModelName): readonly Group[] =>
  (groups as unknown as Record<string, readonly Group[]>)[model] ?? [];

/** What lies at a place of the document; undefined when it is gone, as it may be for a moment. */
export function valueAt(root: unknown, place: Place): unknown {
  let value = root;
  for (const step of place) value = (value as Record<string, unknown> | undefined)?.[step];
  return value;
}

const isOn = (value: unknown, word: string | undefined) =>
  word === undefined ? Boolean(value) : value === word;

/** Whether a row has an effect in any of the objects at these places. */
export const hasEffect = (root: unknown, places: readonly Place[], row: Row): boolean =>
  places.some(
    (place) =>
      !(row.unless && valueAt(root, [...place, row.unless])) &&
      (row.when.length === 0 ||
        row.when.some(({ field, word }) => isOn(valueAt(root, [...place, field]), word))),
  );

/** Whether a field has another value than a new object's in any of the objects at these places. */
export const isChanged = (root: unknown, places: readonly Place[], model: ModelName, name: string): boolean =>
  places.some((place) => !isSame(valueAt(root, [...place, name]), described(model, name).default));
