import { describe, expect, it } from "vitest";
import type { PrintEntry } from "../api/types";
import { progressOf } from "./progress";

const said = (entry: PrintEntry) => progressOf(entry).replaceAll("\u00a0", " ");
const print = (more: Partial<PrintEntry>) =>
  ({
    state: "running",
    samples: 64,
    samples_done: 12,
    seconds_left: null,
    noise: null,
    error: "",
    ...more,
  }) as PrintEntry;

describe("how far a print is", () => {
  it("says samples, noise and time while it is made", () => {
    expect(said(print({}))).toBe("Printing · 12 of 64 samples");
    expect(said(print({ noise: 3.21, seconds_left: 40 }))).toBe(
      "Printing · 12 of 64 samples · 3.2 % noise · 40 s left",
    );
    expect(said(print({ noise: 31.4 }))).toContain("31 % noise");
  });

  it("says neither when it is over, and why it has failed", () => {
    expect(said(print({ state: "done", noise: 2 }))).toBe("Done");
    expect(said(print({ state: "failed", error: "the disk is full" }))).toBe("Failed: the disk is full");
  });
});
