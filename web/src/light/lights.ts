/** The kinds of lights, as the core describes them. */
import { lights } from "../api/fields.gen";
import type { Light } from "../api/types";

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

/** Lights of one group that lie in a folder together; `group` is null for one that lies alone. */
export interface Folder {
  group: string | null;
  lights: [string, Light][];
}

/** Groups that several lights share. */
export function sharedGroups(lights: Record<string, Light>): ReadonlySet<string> {
  const counts = new Map<string, number>();
  for (const { group } of Object.values(lights)) counts.set(group, (counts.get(group) ?? 0) + 1);
  return new Set([...counts].filter(([, count]) => count > 1).map(([group]) => group));
}

/** Lights with those of a shared group together, where the first of them stands. */
export function inFolders(entries: readonly [string, Light][], shared: ReadonlySet<string>): Folder[] {
  const folders = new Map<string, Folder>();
  for (const [key, light] of entries) {
    const group = shared.has(light.group) ? light.group : null;
    const at = group === null ? `light ${key}` : `group ${group}`;
    const folder = folders.get(at) ?? { group, lights: [] };
    folder.lights.push([key, light]);
    folders.set(at, folder);
  }
  return [...folders.values()];
}

/** The parts that a light leaves alone, when it is to light some of them or not. */
export function linked(light: Light, parts: readonly string[], lightsThem: boolean): string[] {
  const others = (light.unlit_parts ?? []).filter((part) => !parts.includes(part));
  return lightsThem ? others : [...others, ...parts];
}
