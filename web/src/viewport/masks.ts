/** Masks of the look in the hand: pure functions between what the document says and pixels of the picture as it stands. */
import type { Look } from "../api/types";

type Mask = Look["locals"][string]["mask"];
export type Ellipse = Extract<Mask, { kind: "ellipse" }>;
export type Gradient = Extract<Mask, { kind: "gradient" }>;
export interface Size {
  width: number;
  height: number;
}
export type Point = [number, number];

const DEGREES = 180 / Math.PI;
const LEAST = 1;
const rounded = (value: number) => Number(value.toFixed(2));

/** Where the middle of an ellipse is, or where a gradient begins. */
export const startOf = (mask: Ellipse | Gradient, { width, height }: Size): Point => [
  (mask.x / 100) * width,
  (mask.y / 100) * height,
];

export const withStart = <M extends Ellipse | Gradient>(
  mask: M,
  [x, y]: Point,
  { width, height }: Size,
): M => ({
  ...mask,
  x: rounded((x / width) * 100),
  y: rounded((y / height) * 100),
});

/** Ends of an ellipse's axes: to the right and upwards, before it is turned. */
export function endsOf(mask: Ellipse, size: Size): { across: Point; up: Point } {
  const [x, y] = startOf(mask, size);
  const [c, s] = [Math.cos(mask.turn / DEGREES), Math.sin(mask.turn / DEGREES)];
  const [a, b] = [(mask.width / 200) * size.height, (mask.height / 200) * size.height];
  return { across: [x + a * c, y - a * s], up: [x - b * s, y - b * c] };
}

/** The ellipse of which one end of an axis was dragged: across turns it as well. */
export function withEnd(mask: Ellipse, which: "across" | "up", [px, py]: Point, size: Size): Ellipse {
  const [x, y] = startOf(mask, size);
  const far = rounded(Math.max((Math.hypot(px - x, py - y) / size.height) * 200, LEAST));
  if (which === "up") return { ...mask, height: far };
  return { ...mask, width: far, turn: rounded(Math.atan2(y - py, px - x) * DEGREES) };
}

/** Where a gradient ends. */
export function endOf(mask: Gradient, size: Size): Point {
  const [x, y] = startOf(mask, size);
  const far = (mask.length / 100) * size.height;
  return [x + far * Math.cos(mask.angle / DEGREES), y - far * Math.sin(mask.angle / DEGREES)];
}

export function withGradientEnd(mask: Gradient, [px, py]: Point, size: Size): Gradient {
  const [x, y] = startOf(mask, size);
  const length = rounded(Math.max((Math.hypot(px - x, py - y) / size.height) * 100, LEAST));
  return { ...mask, length, angle: rounded(Math.atan2(y - py, px - x) * DEGREES) };
}
