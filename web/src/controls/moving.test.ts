import { describe, expect, it } from "vitest";
import { fields } from "../api/fields.gen";
import { dragged, shareOf, stepped } from "./moving";
import type { QuantityField } from "./Quantity";

const focus: QuantityField = fields.Camera.focus_distance;
const exposure: QuantityField = fields.Look.exposure;
const amount: QuantityField = { ...focus, minimum: 0, maximum: 1e9, soft_minimum: 0, soft_maximum: 100 };
const samples: QuantityField = {
  label: "Samples",
  minimum: 1,
  maximum: 65536,
  soft_minimum: 1,
  soft_maximum: 1024,
  step: 1,
  whole: true,
  scale: "linear",
  default: 256,
};

describe("moving by hand", () => {
  it("does not run away: ten pixels at 90 m are a tenth, wherever the soft range ends", () => {
    expect(dragged(focus, 90.5, -10, 1)).toBeCloseTo(81.9, 1);
    expect(dragged(focus, 90.5, 10, 1)).toBe(100);
    let value = 90.5;
    for (let i = 0; i < 10; i++) value = dragged(focus, value, -1, 1);
    expect(value).toBeGreaterThan(80);
  });

  it("is the same there and back", () => {
    for (const start of [0.002, 0.9, 362])
      expect(dragged(focus, dragged(focus, start, 80, 1), -80, 1)).toBeCloseTo(start, 1);
    expect(dragged(exposure, dragged(exposure, 0.3, 77, 1), -77, 1)).toBeCloseTo(0.3, 9);
  });

  it("is quicker with Shift and finer with Alt", () => {
    expect(dragged(exposure, 0, 10, 1)).toBeCloseTo(0.4, 9);
    expect(dragged(exposure, 0, 10, 10)).toBeCloseTo(4, 9);
    expect(dragged(exposure, 0, 10, 0.1)).toBeCloseTo(0.04, 9);
  });

  it("gets away from nothing, and back to it", () => {
    expect(dragged(amount, 0, 1, 1)).toBeCloseTo(0.101, 3);
    expect(dragged(amount, 0.1, -500, 1)).toBe(0);
    expect(dragged(amount, 0.002, 10, 1)).toBeCloseTo(0.0022, 4);
    expect(dragged(focus, 0.0011, -500, 1)).toBe(0.001);
  });

  it("stays within what is possible, and whole where it counts", () => {
    expect(dragged(exposure, 29.9, 500, 1)).toBe(30);
    expect(dragged(samples, 256, 3, 1)).toBe(266);
    expect(stepped(samples, 256, 1, 1)).toBe(257);
    expect(stepped(samples, 1, -1, 10)).toBe(1);
  });

  it("steps by the field's step, or by a twentieth of an amount", () => {
    expect(stepped(exposure, 0, 1, 1)).toBe(0.1);
    expect(stepped(exposure, 0, -1, 0.1)).toBe(-0.01);
    expect(stepped(focus, 1, 1, 1)).toBe(1.05);
    expect(stepped(focus, 0.002, 1, 1)).toBe(0.0021);
    expect(stepped(focus, 1, 1, 10)).toBeCloseTo(1.63, 9);
  });

  it("shows where a value lies", () => {
    expect(shareOf(exposure, 0)).toBe(0.5);
    expect(shareOf(focus, 0.5)).toBeCloseTo(0.5, 9);
    expect([shareOf(focus, 90), shareOf(amount, 0), shareOf(exposure, -20)]).toEqual([1, 0, 0]);
  });
});
