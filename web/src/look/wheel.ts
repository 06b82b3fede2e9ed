/** A colour of three numbers on a disc: which way it leans, and how far, about their mean. */

export type Triple = [number, number, number];

const ANGLES = [Math.PI / 2, Math.PI / 2 + (2 * Math.PI) / 3, Math.PI / 2 + (4 * Math.PI) / 3];
/** Where red, green and blue lie about the disc: red on top, then to the left. */
export const CORNERS = ANGLES.map((angle) => [Math.cos(angle), Math.sin(angle)] as const);

const mean = (values: Triple) => (values[0] + values[1] + values[2]) / 3;
const rounded = (value: number) => Number(value.toFixed(4));

/** Place on the disc of radius 1, y upwards, of three numbers that lean by `reach` at its edge. */
export function placeOf(values: Triple, reach: number): [number, number] {
  const middle = mean(values);
  let [x, y] = [0, 0];
  for (const [i, [cos, sin]] of CORNERS.entries()) {
    x += ((values[i]! - middle) * cos * 2) / 3 / reach;
    y += ((values[i]! - middle) * sin * 2) / 3 / reach;
  }
  return [x, y];
}

/** Three numbers of a mean that lean as a place on the disc says; none below `least`. */
export function leaning(
  middle: number,
  [x, y]: readonly [number, number],
  reach: number,
  least: number,
): Triple {
  const far = Math.hypot(x, y);
  const within = far > 1 ? 1 / far : 1;
  return CORNERS.map(([cos, sin]) =>
    rounded(Math.max(middle + (x * cos + y * sin) * within * reach, least)),
  ) as Triple;
}

/** The same lean about another mean. */
export function withMean(values: Triple, middle: number, least: number): Triple {
  const by = middle - mean(values);
  return values.map((value) => rounded(Math.max(value + by, least))) as Triple;
}

export const meanOf = mean;
