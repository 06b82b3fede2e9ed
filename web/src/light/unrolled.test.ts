import { expect, test } from "vitest";
import { anglesOf, middleOf, outlineOf, placeOf } from "./unrolled";

const card = (changes: object) => ({ name: "Card", width: 30, height: 20, ...changes }) as never;

test("north is in the middle, east to the right, up above", () => {
  expect(placeOf([0, 0, -1])).toEqual({ u: 0.5, v: 0.5 });
  expect(placeOf([1, 0, 0]).u).toBeCloseTo(0.75);
  expect(placeOf([0, 1, 0]).v).toBeCloseTo(0);
});

test("a place and its angles are one another's", () => {
  for (const [azimuth, elevation] of [
    [0, 0],
    [-120, 35],
    [179, -60],
  ] as const) {
    expect(anglesOf(middleOf(card({ azimuth, elevation })))).toEqual({ azimuth, elevation });
  }
  expect(anglesOf({ u: 1.25, v: -0.2 })).toEqual({ azimuth: -90, elevation: 90 });
});

test("an outline spans the card's angles at its middle, and is broken at the map's edge", () => {
  const [line] = outlineOf(card({ azimuth: 20, elevation: 0 }));
  const us = line!.map(({ u }) => u);
  expect((Math.max(...us) - Math.min(...us)) * 360).toBeCloseTo(30, 0);
  expect(outlineOf(card({ azimuth: 180, elevation: 0 }))).toHaveLength(3);
  expect(outlineOf(card({ shape: "round", azimuth: 0, elevation: 0 }))).toHaveLength(1);
});
