import { expect, test } from "vitest";
import { bytes, sizesIn } from "./sizes";

test("sizes are read as people write them, and what is none is noticed", () => {
  expect(sizesIn("1920x1080, 3840 × 2160;64*64")).toEqual([
    [1920, 1080],
    [3840, 2160],
    [64, 64],
  ]);
  expect(sizesIn(" ")).toEqual([]);
  expect(sizesIn("large")).toBeNull();
  expect(sizesIn("1920x1080, 3x")).toBeNull();
});

test("bytes in one word", () => {
  expect(bytes(100)).toBe("1 MB");
  expect(bytes(52_400_000)).toBe("52 MB");
  expect(bytes(2_340_000_000)).toBe("2.3 GB");
});
