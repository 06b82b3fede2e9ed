import { expect, test } from "vitest";
import { ratioOf, readingOf } from "./readings";

test("a reading says only what there is", () => {
  expect(readingOf({ luminance: 12.345, ev: 6.64, illuminance: 1234 })).toBe(
    "12.3 cd/m² · EV 6.6 · 1,230 lx",
  );
  expect(readingOf({ luminance: 0, ev: null, illuminance: null })).toBe("0 cd/m²");
});

test("a ratio has the larger first, and none against darkness", () => {
  expect(ratioOf(2, 8)).toBe("4 : 1, 2.0 stops");
  expect(ratioOf(8, 2)).toBe("4 : 1, 2.0 stops");
  expect(ratioOf(0, 8)).toBeNull();
  expect(ratioOf(null, 8)).toBeNull();
});
