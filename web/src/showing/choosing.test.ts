import { expect, test } from "vitest";
import type { SeenSlide } from "../api/types";
import { called, FROM_THE_SHOT, names, nearer, placeInRing, switched, turnedBy } from "./choosing";

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

const at = (azimuth: number) => ({ ...FROM_THE_SHOT, azimuth });

test("the width of the picture is half a turn, round and round", () => {
  expect(turnedBy(at(0), 0.5, 0)).toEqual(at(270));
  expect(turnedBy(at(0), -0.5, 0)).toEqual(at(90));
  expect(turnedBy(at(300), -1, 0)).toEqual(at(120));
  expect(placeInRing(at(300), 24)).toBe(20);
  expect(placeInRing(at(359), 24)).toBe(0);
});

test("what is raised and nearer stays within bounds", () => {
  expect(turnedBy(at(0), 0, 0.1).raised).toBeCloseTo(18);
  expect(turnedBy(at(0), 0, 5).raised).toBe(80);
  expect(nearer(at(0), 10).closer).toBe(3);
  expect(nearer(at(0), 0.01).closer).toBe(0.5);
});
