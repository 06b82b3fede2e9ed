/** Which takes hang on the sheet, and in which groups. */
import type { TakeEntry } from "../api/types";
import { dayOf } from "./keeping";

export interface Wanted {
  /** Words that stand in the note, the labels, what was on, or by whom. */
  words: string;
  stars: number;
  by: "time" | "board";
}

export const NO_BOARD = "On no board";

/** (heading, takes) of what is wanted; by time the newest day first, by board in the order of their names. */
export function walls(takes: readonly TakeEntry[], wanted: Wanted): [string, TakeEntry[]][] {
  const words = wanted.words.toLowerCase().split(/\s+/).filter(Boolean);
  const groups = new Map<string, TakeEntry[]>();
  for (const take of takes) {
    const said = [take.note, take.shown, take.author, take.board, ...take.labels].join(" ").toLowerCase();
    if (take.stars < wanted.stars || !words.every((word) => said.includes(word))) continue;
    const name = wanted.by === "time" ? dayOf(take.created) : take.board || NO_BOARD;
    groups.set(name, [...(groups.get(name) ?? []), take]);
  }
  const found = [...groups];
  if (wanted.by === "board")
    found.sort(([a], [b]) => Number(a === NO_BOARD) - Number(b === NO_BOARD) || a.localeCompare(b));
  return found;
}
