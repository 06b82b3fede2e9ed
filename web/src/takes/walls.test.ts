import { expect, test } from "vitest";
import type { TakeEntry } from "../api/types";
import { NO_BOARD, walls } from "./walls";

const take = (id: number, more: Partial<TakeEntry>) =>
  ({
    id,
    created: `2026-11-${20 + id}T10:00:00Z`,
    note: "",
    shown: "",
    author: "ada",
    board: "",
    labels: [],
    stars: 0,
    ...more,
  }) as unknown as TakeEntry;

const all = [
  take(4, { note: "Too dark at the strap", stars: 1 }),
  take(3, { board: "For Tuesday", labels: ["evening"], stars: 4 }),
  take(2, { shown: "Ink, open", stars: 5 }),
];

test("every word must stand somewhere, in any case", () => {
  const found = (words: string) =>
    walls(all, { words, stars: 0, by: "board" }).flatMap(([, each]) => each.map((one) => one.id));
  expect(found("DARK strap")).toEqual([4]);
  expect(found("tuesday evening")).toEqual([3]);
  expect(found("ink evening")).toEqual([]);
  expect(found("")).toHaveLength(3);
});

test("by board in the order of names, what is on none last", () => {
  const found = walls(all, { words: "", stars: 0, by: "board" });
  expect(found.map(([name, each]) => [name, each.length])).toEqual([
    ["For Tuesday", 1],
    [NO_BOARD, 2],
  ]);
});

test("by time in days as they came, with so many stars at least", () => {
  const found = walls(all, { words: "", stars: 4, by: "time" });
  expect(found.map(([, each]) => each.map((one) => one.id))).toEqual([[3], [2]]);
});
