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

/** Entries of the document by their names, those of one name by their keys. */
export const byName = <T extends { name: string }>(entries: Record<string, T>): [string, T][] =>
  Object.entries(entries).sort(
    ([a, x], [b, y]) => x.name.localeCompare(y.name, "en", { numeric: true }) || (a < b ? -1 : 1),
  );

/** Lights in the order that the document gives, those that it does not name behind by their keys. */
export function inOrder<T>(entries: Record<string, T>, order: readonly string[]): [string, T][] {
  const known = order.filter((key) => key in entries);
  const others = Object.keys(entries)
    .filter((key) => !known.includes(key))
    .sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
  return [...known, ...others].map((key) => [key, entries[key]!]);
}
