import { expect, test } from "vitest";
import { momentAfter } from "./usePlayed";

const line = { rate: 25, seconds: 4, loop: true, moves: {} };

test("a frame is shown for as long as it lasts", () => {
  expect(momentAfter(0, 0, line)).toBe(0);
  expect(momentAfter(0.039, 0, line)).toBe(0);
  expect(momentAfter(0.04, 0, line)).toBe(0.04);
  expect(momentAfter(1.0, 0.5, line)).toBe(1.48);
});

test("a loop begins again where it ends, and what does not loop is over", () => {
  expect(momentAfter(4.2, 0, line)).toBe(0.2);
  expect(momentAfter(2, 3, line)).toBe(1);
  expect(momentAfter(4, 0, { ...line, loop: false })).toBeNull();
  expect(momentAfter(3.99, 0, { ...line, loop: false })).toBe(3.96);
});
