import { expect, test } from "vitest";
import { dayIn, pictures } from "./counting";

test("of nothing chosen there is what is on, and turning takes a ring of each", () => {
  const none = { editions: [], shots: [], conditions: [] };
  expect(pictures(none, [])).toBe(1);
  const some = { editions: ["a", "b", "c"], shots: ["s", "t"], conditions: ["x"] };
  expect(pictures(some, ["switch"])).toBe(6);
  expect(pictures(some, ["turn"])).toBe(144);
});

test("a day is said as fields of dates say it", () => {
  expect(dayIn(14, new Date("2026-11-29T08:00:00Z"))).toBe("2026-12-13");
});
