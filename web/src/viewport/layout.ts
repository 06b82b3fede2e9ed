/** Where the picture lies in its pane: pure functions, CSS pixels. */
import type { Magnifier } from "../store/panes";

export interface Place {
  left: number;
  top: number;
  width: number;
  height: number;
}

export interface Size {
  width: number;
  height: number;
}

/** CSS pixels a pixel of the frame has when the whole picture is shown. */
export const fitFactor = (pane: Size, full: Size) =>
  Math.min(pane.width / full.width, pane.height / full.height);

/** The picture's place: whole and in the middle, or magnified about a point. */
export function placeOf(pane: Size, full: Size, magnifier: Magnifier | null): Place {
  const factor = magnifier?.factor ?? fitFactor(pane, full);
  const width = full.width * factor;
  const height = full.height * factor;
  const { x, y } = magnifier ?? { x: 0.5, y: 0.5 };
  return { left: pane.width / 2 - x * width, top: pane.height / 2 - y * height, width, height };
}

const LARGEST_FACTOR = 64;
const clamp = (v: number) => Math.min(Math.max(v, 0), 1);

/** Magnify by `by` about a point of the pane, which stays where it is; null when the whole picture fits again. */
export function magnified(
  pane: Size,
  full: Size,
  magnifier: Magnifier | null,
  by: number,
  px: number,
  py: number,
): Magnifier | null {
  const before = placeOf(pane, full, magnifier);
  const least = fitFactor(pane, full);
  const factor = Math.min((magnifier?.factor ?? least) * by, LARGEST_FACTOR);
  if (factor <= least * 1.001) return null;
  const x = (px - before.left) / before.width;
  const y = (py - before.top) / before.height;
  return {
    factor,
    x: clamp(x + (pane.width / 2 - px) / (full.width * factor)),
    y: clamp(y + (pane.height / 2 - py) / (full.height * factor)),
  };
}

/** The magnified picture moved by the hand. */
export function shifted(full: Size, magnifier: Magnifier, dx: number, dy: number): Magnifier {
  const { factor, x, y } = magnifier;
  return { factor, x: clamp(x - dx / (full.width * factor)), y: clamp(y - dy / (full.height * factor)) };
}
