/** Parts and groups as rows of a tree. */
import type { Scene } from "../api/types";
import { above, partsIn } from "../store/groups";

export interface TreeRow {
  kind: "part" | "group";
  key: string;
  depth: number;
  /** Of a group: all parts in it. */
  parts: string[];
}

/** Rows in the order of `ordered` parts, a group where its first part would be; what is in closed ones is left out. */
export function treeRows(
  { parts, part_groups: groups }: Pick<Scene, "parts" | "part_groups">,
  ordered: readonly string[],
  isClosed: (group: string) => boolean,
): TreeRow[] {
  const inside = partsIn(parts, groups);
  const below = new Map<string | null, TreeRow[]>([[null, []]]);
  const listed = new Set<string>();
  for (const key of ordered) {
    const way = above(groups, parts[key]!.group).reverse();
    way.forEach((group, depth) => {
      if (listed.has(group)) return;
      listed.add(group);
      below.set(group, []);
      const row: TreeRow = { kind: "group", key: group, depth, parts: inside.get(group)! };
      below.get(depth === 0 ? null : way[depth - 1]!)!.push(row);
    });
    below.get(way.at(-1) ?? null)!.push({ kind: "part", key, depth: way.length, parts: [] });
  }
  const rows: TreeRow[] = [];
  const list = (level: TreeRow[]) => {
    for (const row of level) {
      rows.push(row);
      if (row.kind === "group" && !isClosed(row.key)) list(below.get(row.key)!);
    }
  };
  list(below.get(null)!);
  return rows;
}
