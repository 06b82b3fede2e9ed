/**
 * Where a part stands by its document, and what a change by hand makes of that: fields where it can be said by them, the
 * matrix of its file where it cannot. As `lantern.scene.placing` has it: the part's own matrix, then how its asset
 * stands, then mirror, size and turns about its pivot, then the offset. Lengths in metres, matrices are rows.
 */
import { upright } from "../api/fields.gen";
import type { Operation, Part, Scene } from "../api/types";
import { pointer, replace } from "../store/patch";
import { type Change, linear, movedPoint } from "./handles";
import { add, dot, scale, sub, type Vector } from "./vectors";

/** A linear map and where it takes the origin. */
export interface Affine {
  rows: Vector[];
  shift: Vector;
}

const DEGREE = Math.PI / 180;
const MIRRORS = ["x", "y", "z"];
const rounded = (value: number) => Number(value.toFixed(9));

export const times = (rows: Vector[], v: Vector): Vector => [
  dot(rows[0]!, v),
  dot(rows[1]!, v),
  dot(rows[2]!, v),
];
const turned = (rows: Vector[]): Vector[] => [0, 1, 2].map((i) => rows.map((row) => row[i]!) as Vector);
const product = (a: Vector[], b: Vector[]): Vector[] => {
  const columns = turned(b);
  return a.map((row) => columns.map((column) => dot(row, column)) as Vector);
};
const after = (a: Affine, b: Affine): Affine => ({
  rows: product(a.rows, b.rows),
  shift: add(times(a.rows, b.shift), a.shift),
});

/** Of a map that turns, mirrors and sizes alike all ways by `size`. */
function inverse({ rows, shift }: Affine, size: number): Affine {
  const back = turned(rows).map((row) => scale(row, 1 / (size * size)));
  return { rows: back, shift: scale(times(back, shift), -1) };
}

/** Turns about X, then Y, then Z [degrees]. */
export function turnRows(x: number, y: number, z: number): Vector[] {
  const [a, b, c] = [x, y, z].map((angle) => Math.cos(angle * DEGREE)) as Vector;
  const [d, e, f] = [x, y, z].map((angle) => Math.sin(angle * DEGREE)) as Vector;
  return [
    [b * c, d * e * c - a * f, a * e * c + d * f],
    [b * f, d * e * f + a * c, a * e * f - d * c],
    [-e, d * b, a * b],
  ];
}

/** The angles [degrees] that `turnRows` makes rows of. */
export function turnsOf(rows: Vector[]): Vector {
  const sine = -rows[2]![0];
  if (Math.abs(sine) > 1 - 1e-12)
    return [0, Math.sign(sine) * 90, Math.atan2(-rows[0]![1], rows[1]![1]) / DEGREE];
  return [
    Math.atan2(rows[2]![1], rows[2]![2]) / DEGREE,
    Math.asin(sine) / DEGREE,
    Math.atan2(rows[1]![0], rows[0]![0]) / DEGREE,
  ];
}

/** What is laid over the matrices of a part. */
export function placement(part: Part, asset: Scene["asset"]): Affine {
  const turn = turnRows(part.turn_x, part.turn_y, part.turn_z);
  const rows = turn.map(
    (row) => row.map((v, i) => (MIRRORS[i] === part.mirror ? -v : v) * part.size) as Vector,
  );
  const [pivot, offset] = [part.pivot as Vector, part.offset as Vector];
  const over = { rows, shift: sub(add(pivot, offset), times(rows, pivot)) };
  const size = unitOf(part, asset);
  const up = part.form ? "+y" : (asset?.up ?? "+y");
  const stand = (upright[up] as unknown as Vector[]).map((row) => scale(row, size));
  return after(over, { rows: stand, shift: [0, 0, 0] });
}

/** Metres that a unit of a part's own space is: a body with a form is in metres, whatever the asset is in. */
const unitOf = (part: Part, asset: Scene["asset"]) => (part.form ? 1 : (asset?.scale ?? 1));

export const affineOf = (matrix: readonly number[]): Affine => ({
  rows: [0, 4, 8].map((i) => matrix.slice(i, i + 3) as Vector),
  shift: [matrix[3]!, matrix[7]!, matrix[11]!],
});
const matrixOf = ({ rows, shift }: Affine) => rows.flatMap((row, i) => [...row, shift[i]!]).map(rounded);

/** Sizing along one axis of the scene is what no field says: it goes into the matrices of the file. */
function stretched(
  change: Change,
  pivot: Vector,
  key: string,
  part: Part,
  asset: Scene["asset"],
): Operation[] {
  const over = placement(part, asset);
  const rows = linear(change);
  const changed = after({ rows, shift: sub(pivot, times(rows, pivot)) }, over);
  const own = after(inverse(over, part.size * unitOf(part, asset)), changed);
  const matrix = (rest: readonly number[]) => matrixOf(after(own, affineOf(rest)));
  const patch = [replace(pointer("parts", key, "matrix"), matrix(part.matrix))];
  if (part.keys.length > 0) {
    const keys = part.keys.map((each) => ({ ...each, matrix: matrix(each.matrix) }));
    patch.push(replace(pointer("parts", key, "keys"), keys));
  }
  return patch;
}

/** The patch that moves a part with others about the pivot of them all. */
function movedPart(
  change: Change,
  pivot: Vector,
  key: string,
  part: Part,
  asset: Scene["asset"],
): Operation[] {
  if (change.kind === "scale" && change.axis !== null) return stretched(change, pivot, key, part, asset);
  const own = part.pivot as Vector;
  const there = movedPoint(change, pivot, add(own, part.offset as Vector));
  const at = (field: string, value: unknown) => replace(pointer("parts", key, field), value);
  const patch = [at("offset", sub(there, own).map(rounded))];
  if (change.kind === "scale") patch.push(at("size", rounded(part.size * change.by)));
  if (change.kind === "turn") {
    const turns = turnsOf(product(linear(change), turnRows(part.turn_x, part.turn_y, part.turn_z)));
    ["turn_x", "turn_y", "turn_z"].forEach((field, i) => void patch.push(at(field, rounded(turns[i]!))));
  }
  return patch;
}

/** The patch that moves parts as one. */
export function movedParts(
  change: Change,
  pivot: Vector,
  { parts, asset }: Pick<Scene, "parts" | "asset">,
  keys: string[],
): Operation[] {
  return keys.flatMap((key) => (parts[key] ? movedPart(change, pivot, key, parts[key], asset) : []));
}
