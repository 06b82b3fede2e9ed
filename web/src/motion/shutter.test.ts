import { expect, test } from "vitest";
import { angleOf, openFor } from "./shutter";

test("half a turn at 25 a second is a fiftieth of a second about the moment", () => {
  expect(openFor(180, 25)).toEqual({ opens: -0.01, closes: 0.01 });
  expect(angleOf({ opens: -0.01, closes: 0.01 }, 25)).toBe(180);
});

test("shut it has no angle, and no moment before its own", () => {
  expect(openFor(0, 25)).toEqual({ opens: 0, closes: 0 });
  expect(Object.is(openFor(0, 25).opens, -0)).toBe(false);
});

test("every angle comes back at every rate", () => {
  for (const rate of [12, 24, 25, 29.97, 60])
    for (const angle of [1, 45, 172.8, 360])
      expect(angleOf(openFor(angle, rate), rate)).toBeCloseTo(angle, 1);
});
