import { expect, test } from "vitest";
import type { PrintEntry } from "../api/types";
import { inQueue, neighbour } from "./queue";

const print = (id: number, state: string, place: number | null = null) =>
  ({ id, state, place }) as unknown as PrintEntry;
const PRINTS = [
  print(7, "queued", 4),
  print(6, "queued", 1),
  print(5, "done"),
  print(4, "held"),
  print(3, "running"),
  print(2, "queued", 3),
  print(1, "failed"),
];
const ids = (prints: readonly PrintEntry[]) => prints.map(({ id }) => id);

test("what runs comes first, then what waits as it will be made, then what has ended, the newest first", () => {
  expect(ids(inQueue(PRINTS))).toEqual([3, 6, 2, 7, 4, 5, 1]);
});

test("a print takes the place of its neighbour, and of none at the ends", () => {
  expect(neighbour(PRINTS, 2, -1)?.id).toBe(6);
  expect(neighbour(PRINTS, 2, 1)?.id).toBe(7);
  expect(neighbour(PRINTS, 6, -1)).toBeUndefined();
  expect(neighbour(PRINTS, 7, 1)).toBeUndefined();
});
