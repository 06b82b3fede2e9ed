/** Lines that help to compose the frame. Places are shares of it: (0, 0) is its upper left. */

export type GuideKind = "thirds" | "centre" | "diagonals" | "safe";

export const GUIDES: Record<GuideKind, string> = {
  thirds: "Thirds",
  centre: "Centre",
  diagonals: "Diagonals",
  safe: "Safe areas, 93 % and 90 %",
};

type Line = readonly [x1: number, y1: number, x2: number, y2: number];

/** Shares of the frame's sides that hold action and graphics (EBU R 95, section 4). */
const SAFE = [0.93, 0.9];

const around = (share: number): Line[] => {
  const [low, high] = [(1 - share) / 2, (1 + share) / 2];
  return [
    [low, low, high, low],
    [high, low, high, high],
    [high, high, low, high],
    [low, high, low, low],
  ];
};

const LINES: Record<GuideKind, readonly Line[]> = {
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

export const linesOf = (guides: readonly GuideKind[]): Line[] =>
  guides.flatMap((guide) => LINES[guide] ?? []);
