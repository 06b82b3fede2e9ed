import { expect, test } from "vitest";
import type { Scene } from "../api/types";
import { inOrder, movedInOrder } from "./order";

test("shots stand in their order, those that it does not know behind", () => {
  const shots = { a: {}, b: {}, c: {} } as unknown as Scene["shots"];
  expect(inOrder(shots, ["c", "gone"]).map(([key]) => key)).toEqual(["c", "a", "b"]);
});

test("one of an order is moved by places", () => {
  expect(movedInOrder(["a", "b", "c"], 2, -1)).toEqual(["a", "c", "b"]);
  expect(movedInOrder(["a", "b", "c"], 0, 1)).toEqual(["b", "a", "c"]);
});
