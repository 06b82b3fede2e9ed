/** Points of a curve in the hand: pure functions on them, and the line that is drawn through them. */

export type CurvePoint = [number, number];

/** Between neighbours there is always this much, so that points keep their order. */
export const APART = 0.004;
const clamp = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);
const rounded = (value: number) => Number(value.toFixed(4));

/** A point moved: to the right of the one before and left of the next; of a curve that never falls, between their heights. */
export function withPoint(
  points: readonly CurvePoint[],
  number: number,
  [x, y]: CurvePoint,
  rises: boolean,
): CurvePoint[] {
  const [before, after] = [points[number - 1], points[number + 1]];
  const across = clamp(x, before ? before[0] + APART : 0, after ? after[0] - APART : 1);
  const up = rises ? clamp(y, before?.[1] ?? 0, after?.[1] ?? 1) : clamp(y, 0, 1);
  return points.map((point, i) => (i === number ? [rounded(across), rounded(up)] : [...point]));
}

/** A point added where there is room; null where one is too near. */
export function withNew(
  points: readonly CurvePoint[],
  [x, y]: CurvePoint,
  rises: boolean,
): { points: CurvePoint[]; number: number } | null {
  if (points.some(([at]) => Math.abs(at - x) < 2 * APART)) return null;
  const number = points.filter(([at]) => at < x).length;
  const next = [...points.slice(0, number), [x, y] as CurvePoint, ...points.slice(number)];
  return { points: withPoint(next, number, [x, y], rises), number };
}

/** The points with those at the ends that a curve has without being told: (0, 0) and (1, 1), or its own height. */
export function withEnds(points: readonly CurvePoint[], neutral: number | null): CurvePoint[] {
  if (neutral !== null) {
    if (points.length === 0)
      return [
        [0, neutral],
        [1, neutral],
      ];
    const [first, last] = [points[0]!, points[points.length - 1]!];
    // Hues go round: the line is that of the points a turn before and a turn after as well.
    return [
      ...(first[0] > 0 ? ([[last[0] - 1, last[1]]] as CurvePoint[]) : []),
      ...points.map((point): CurvePoint => [...point]),
      ...(last[0] < 1 ? ([[first[0] + 1, first[1]]] as CurvePoint[]) : []),
    ];
  }
  const ends = points.map((point): CurvePoint => [...point]);
  if (!ends[0] || ends[0][0] > 0) ends.unshift([0, 0]);
  if (ends[ends.length - 1]![0] < 1) ends.push([1, 1]);
  return ends;
}

/** Slopes at the points by which a cubic never turns back between two of them: their weighted harmonic means. */
function slopes(points: readonly CurvePoint[]): number[] {
  const steps = points.slice(1).map(([x, y], i) => {
    const [x0, y0] = points[i]!;
    return { width: x - x0, slope: (y - y0) / (x - x0) };
  });
  return points.map((_, i) => {
    const [before, after] = [steps[i - 1], steps[i]];
    if (!before || !after) return (before ?? after)?.slope ?? 0;
    if (before.slope * after.slope <= 0) return 0;
    const [a, b] = [2 * after.width + before.width, after.width + 2 * before.width];
    return (a + b) / (a / before.slope + b / after.slope);
  });
}

/** An SVG path through the points, in a box of `width` by `height` with its origin at the lower left. */
export function pathOf(points: readonly CurvePoint[], width: number, height: number): string {
  const at = slopes(points);
  const place = (x: number, y: number) => `${(x * width).toFixed(2)} ${((1 - y) * height).toFixed(2)}`;
  return points
    .map(([x, y], i) => {
      if (i === 0) return `M ${place(x, y)}`;
      const [x0, y0] = points[i - 1]!;
      const third = (x - x0) / 3;
      return `C ${place(x0 + third, y0 + at[i - 1]! * third)} ${place(x - third, y - at[i]! * third)} ${place(x, y)}`;
    })
    .join(" ");
}
