import { expect, test } from "vitest";
import { dayOf, SEASONS, withDay } from "./days";

test("a day of the year and back, within its year", () => {
  expect(dayOf("2026-01-01")).toBe(0);
  expect(dayOf("2026-12-31")).toBe(364);
  for (const date of ["2026-02-28", "2026-03-29", "2026-10-25", "2024-02-29"])
    expect(withDay(date, dayOf(date))).toBe(date);
  expect(withDay("2026-06-21", -3)).toBe("2026-01-01");
  expect(withDay("2026-06-21", 900)).toBe("2026-12-31");
});

test("the seasons begin when the almanac says, within a day", () => {
  expect(SEASONS.map(({ value }) => withDay("2026-01-01", value))).toEqual([
    "2026-03-21",
    "2026-06-21",
    "2026-09-23",
    "2026-12-22",
  ]);
});
