/** Groups of parts as the document has them: what is in them, and what of a selection is a whole. */
import type { Scene } from "../api/types";

type Parts = Scene["parts"];
type Groups = Scene["part_groups"];

export interface Top {
  section: "parts" | "part_groups";
  key: string;
}

/** Keys of the groups that a thing in `group` belongs to, from the inside out. */
export function above(groups: Groups, group: string | null): string[] {
  const found: string[] = [];
  for (let key = group; key !== null && groups[key]; key = groups[key]!.group) found.push(key);
  return found;
}

/** Keys of all parts in each group and in those within it. */
export function partsIn(parts: Parts, groups: Groups): Map<string, string[]> {
  const found = new Map<string, string[]>(Object.keys(groups).map((key) => [key, []]));
  for (const [key, part] of Object.entries(parts))
    for (const group of above(groups, part.group)) found.get(group)!.push(key);
  return found;
}

/** Parts as the fewest wholes: a group of which every part is among them is one. As `lantern.scene.grouping` has it. */
export function topsOf(parts: Parts, groups: Groups, keys: readonly string[]): Top[] {
  if (Object.keys(groups).length === 0) return keys.map((key) => ({ section: "parts", key }));
  const chosen = new Set(keys);
  const inside = partsIn(parts, groups);
  const isWhole = (group: string) => inside.get(group)!.every((key) => chosen.has(key));
  const tops = new Map<string, Top>();
  for (const key of keys) {
    const outermost = above(groups, parts[key]!.group).filter(isWhole).at(-1);
    const top: Top = outermost ? { section: "part_groups", key: outermost } : { section: "parts", key };
    tops.set(`${top.section}/${top.key}`, top);
  }
  return [...tops.values()];
}
