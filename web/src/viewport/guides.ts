/** Lines that help to compose the frame. Places are shares of it: (0, 0) is its upper left. */
import type { Camera } from "../api/types";
import { horizonOf } from "./orbit";

export type GuideKind = "thirds" | "centre" | "diagonals" | "safe" | "margins" | "level";

export const GUIDES: Record<GuideKind, string> = {
  thirds: "Thirds",
  centre: "Centre",
  diagonals: "Diagonals",
  safe: "Safe areas, 93 % and 90 %",
  margins: "Margins of one's own",
  level: "Level of the eye",
};

type Line = readonly [x1: number, y1: number, x2: number, y2: number];

/** Shares of the frame's sides that hold action and graphics (EBU R 95, section 4). */
const SAFE = [0.93, 0.9];
export const MARGIN = 8;

const box = (left: number, top: number, right: number, bottom: number): Line[] => [
  [left, top, right, top],
  [right, top, right, bottom],
  [right, bottom, left, bottom],
  [left, bottom, left, top],
];
const around = (share: number): Line[] => {
  const [low, high] = [(1 - share) / 2, (1 + share) / 2];
  return box(low, low, high, high);
};

const LINES: Partial<Record<GuideKind, readonly Line[]>> = {
  thirds: [
    [1 / 3, 0, 1 / 3, 1],
    [2 / 3, 0, 2 / 3, 1],
    [0, 1 / 3, 1, 1 / 3],
    [0, 2 / 3, 1, 2 / 3],
  ],
  centre: [
    [0.5, 0, 0.5, 1],
    [0, 0.5, 1, 0.5],
  ],
  diagonals: [
    [0, 0, 1, 1],
    [0, 1, 1, 0],
  ],
  safe: SAFE.flatMap(around),
};

/** Margins as wide as a share [%] of the frame's shorter side. */
function margins(percent: number, shape: number): Line[] {
  const share = percent / 100;
  const [x, y] = shape > 1 ? [share / shape, share] : [share, share * shape];
  return box(x, y, 1 - x, 1 - y);
}

/** Where what is as high as the eye lies; nothing where the camera does not see it. */
function level(camera: Camera, shape: number): Line[] {
  const ends = horizonOf(camera, shape);
  if (ends === null || Math.max(...ends) < 0 || Math.min(...ends) > 1) return [];
  return [[0, ends[0], 1, ends[1]]];
}

/** `shape` is the frame's width over its height, `margin` the share of its shorter side [%]. */
export const linesOf = (
  guides: readonly GuideKind[],
  camera: Camera,
  shape: number,
  margin: number,
): Line[] =>
  guides.flatMap((guide) => {
    if (guide === "margins") return margins(margin, shape);
    if (guide === "level") return level(camera, shape);
    return LINES[guide] ?? [];
  });
