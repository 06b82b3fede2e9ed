import { expect, test } from "vitest";
import type { SeenSlide } from "../api/types";
import { called, names, switched, turnedBy } from "./choosing";

let next = 0;
const slide = (edition: string, shot: string, conditions: string): SeenSlide => ({
  id: ++next,
  edition,
  shot,
  conditions,
  pictures: ["a"],
  comments: [],
});
const slides = ["Cream", "Ink"].flatMap((edition) =>
  ["Front", "Detail"].map((shot) => slide(edition, shot, "Evening")),
);

test("an aspect of which there is one is nothing to choose", () => {
  expect(names(slides, "edition")).toEqual(["Cream", "Ink"]);
  expect(names(slides, "conditions")).toEqual([]);
  expect(called(slides, slides[3]!)).toBe("Ink, Detail");
});

test("another edition keeps the view, and what is not there changes as little as can be", () => {
  expect(switched(slides, slides[1]!, "edition", "Ink")).toBe(slides[3]);
  const some = [slides[0]!, slides[1]!, slides[2]!];
  expect(switched(some, slides[1]!, "edition", "Ink")).toBe(slides[2]);
  expect(switched(some, slides[1]!, "edition", "gone")).toBe(slides[1]);
});

test("the width of the picture is half a turn, round and round", () => {
  expect(turnedBy(0, 0.5, 24)).toBe(18);
  expect(turnedBy(0, -0.5, 24)).toBe(6);
  expect(turnedBy(20, -1, 24)).toBe(8);
  expect(turnedBy(0, 0.01, 24)).toBe(0);
});
