import { describe, expect, it } from "vitest";
import {
  type Ellipse,
  endOf,
  endsOf,
  type Gradient,
  startOf,
  withEnd,
  withGradientEnd,
  withStart,
} from "./masks";

const SIZE = { width: 900, height: 600 };
const ELLIPSE: Ellipse = { kind: "ellipse", x: 50, y: 50, width: 50, height: 20, turn: 30, feather: 0.5 };
const GRADIENT: Gradient = { kind: "gradient", x: 10, y: 80, angle: 90, length: 40 };

const near = (found: readonly number[], wanted: readonly number[]) => {
  for (const [i, value] of found.entries()) expect(value).toBeCloseTo(wanted[i]!, 1);
};

describe("masks in the hand", () => {
  it("stand where the document says, and move by their start", () => {
    near(startOf(ELLIPSE, SIZE), [450, 300]);
    near(startOf(withStart(ELLIPSE, [90, 60], SIZE), SIZE), [90, 60]);
  });

  it("are sized and turned by the ends of their axes", () => {
    const { across, up } = endsOf(ELLIPSE, SIZE);
    near(across, [450 + 150 * Math.cos(Math.PI / 6), 300 - 150 * 0.5]);
    expect(withEnd(ELLIPSE, "across", across, SIZE)).toEqual(ELLIPSE);
    expect(withEnd(ELLIPSE, "up", up, SIZE)).toEqual(ELLIPSE);
    expect(withEnd(ELLIPSE, "across", [450, 240], SIZE)).toMatchObject({ width: 20, turn: 90, height: 20 });
  });

  it("run from where a gradient begins to where it ends", () => {
    near(endOf(GRADIENT, SIZE), [90, 240]);
    expect(withGradientEnd(GRADIENT, [90, 240], SIZE)).toEqual(GRADIENT);
    expect(withGradientEnd(GRADIENT, [390, 480], SIZE)).toMatchObject({ angle: 0, length: 50 });
  });
});
