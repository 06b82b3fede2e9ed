/**
 * Where a part stands by its document, and what a change by hand makes of that: fields where it can be said by them, the
 * matrix of its file where it cannot. As `lantern.scene.placing` has it: the part's own matrix, then how its asset
 * stands, then mirror, size and turns about its pivot, then the offset, then so with each of its groups. Lengths in
 * metres, matrices are rows.
 */
import { upright } from "../api/fields.gen";
import type { Operation, Part, PartGroup, Scene } from "../api/types";
import { topsOf } from "../store/groups";
import { pointer, replace } from "../store/patch";
import { type Change, linear, movedPoint } from "./handles";
import { add, cross, dot, scale, sub, type Vector } from "./vectors";

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
export const product = (a: Vector[], b: Vector[]): Vector[] => {
  const columns = turned(b);
  return a.map((row) => columns.map((column) => dot(row, column)) as Vector);
};
const after = (a: Affine, b: Affine): Affine => ({
  rows: product(a.rows, b.rows),
  shift: add(times(a.rows, b.shift), a.shift),
});

export const IDENTITY: Affine = {
  rows: [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  shift: [0, 0, 0],
};

const determinant = ([a, b, c]: Vector[]) => dot(a!, cross(b!, c!));

/** Of a map that turns, mirrors and sizes alike all ways. */
export function inverse({ rows, shift }: Affine): Affine {
  const size = Math.cbrt(Math.abs(determinant(rows)));
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

/** What is placed within a group, or in the scene. */
type Placed = Part | PartGroup;
type Stood = Pick<Scene, "parts" | "part_groups" | "asset">;

/** What something's own fields make of where it stands. */
function own(one: Placed): Affine {
  const turn = turnRows(one.turn_x, one.turn_y, one.turn_z);
  const rows = turn.map(
    (row) => row.map((v, i) => (MIRRORS[i] === one.mirror ? -v : v) * one.size) as Vector,
  );
  const [pivot, offset] = [one.pivot as Vector, one.offset as Vector];
  return { rows, shift: sub(add(pivot, offset), times(rows, pivot)) };
}

/** From the space that something is placed in to the scene. */
function spaceOf(one: Placed, groups: Scene["part_groups"]): Affine {
  const group = one.group ? groups[one.group] : undefined;
  return group ? after(spaceOf(group, groups), own(group)) : IDENTITY;
}

/** What is laid over the matrices of a part. */
export function placement(part: Part, { asset, part_groups }: Omit<Stood, "parts">): Affine {
  const up = part.form ? "+y" : (asset?.up ?? "+y");
  // A body with a form is in metres, whatever the asset is in.
  const size = part.form ? 1 : (asset?.scale ?? 1);
  const rows = (upright[up] as unknown as Vector[]).map((row) => scale(row, size));
  return after(after(spaceOf(part, part_groups), own(part)), { rows, shift: [0, 0, 0] });
}

export const affineOf = (matrix: readonly number[]): Affine => ({
  rows: [0, 4, 8].map((i) => matrix.slice(i, i + 3) as Vector),
  shift: [matrix[3]!, matrix[7]!, matrix[11]!],
});
const matrixOf = ({ rows, shift }: Affine) => rows.flatMap((row, i) => [...row, shift[i]!]).map(rounded);

/** A change about a pivot as a map of the scene. */
function mapOf(change: Change, pivot: Vector): Affine {
  const rows = linear(change);
  return { rows, shift: sub(movedPoint(change, pivot, pivot), times(rows, pivot)) };
}

/** Sizing along one axis of the scene is what no field says: it goes into the matrices of the file. */
function stretched(change: Change, pivot: Vector, key: string, part: Part, stood: Stood): Operation[] {
  const over = placement(part, stood);
  const inner = after(inverse(over), after(mapOf(change, pivot), over));
  const matrix = (rest: readonly number[]) => matrixOf(after(inner, affineOf(rest)));
  const patch = [replace(pointer("parts", key, "matrix"), matrix(part.matrix))];
  if (part.keys.length > 0) {
    const keys = part.keys.map((each) => ({ ...each, matrix: matrix(each.matrix) }));
    patch.push(replace(pointer("parts", key, "keys"), keys));
  }
  return patch;
}

/** The fields by which something that turns and sizes alike all ways is placed as a map says. */
function placedAs(one: Placed, { rows, shift }: Affine): Partial<Placed> {
  const volume = determinant(rows);
  const size = Math.cbrt(Math.abs(volume));
  const mirror = volume >= 0 ? "none" : one.mirror === "none" ? "x" : one.mirror;
  const turn = rows.map((row) => row.map((v, i) => (MIRRORS[i] === mirror ? -v : v) / size) as Vector);
  const [x, y, z] = turnsOf(turn).map(rounded) as Vector;
  const pivot = one.pivot as Vector;
  const offset = add(sub(shift, pivot), times(rows, pivot)).map(rounded) as Vector;
  return { offset, size: rounded(size), mirror, turn_x: x, turn_y: y, turn_z: z };
}

/** The fields of something that is moved with others about the pivot of them all. */
function moved(change: Change, pivot: Vector, one: Placed, groups: Scene["part_groups"]): Partial<Placed> {
  const space = spaceOf(one, groups);
  if (space !== IDENTITY) {
    const within = after(inverse(space), after(mapOf(change, pivot), space));
    const fields = placedAs(one, after(within, own(one)));
    // A shift leaves turns and sizes as they were said.
    return change.kind === "move" ? { offset: fields.offset! } : fields;
  }
  const at = one.pivot as Vector;
  const there = movedPoint(change, pivot, add(at, one.offset as Vector));
  const fields: Partial<Placed> = { offset: sub(there, at).map(rounded) as Vector };
  if (change.kind === "scale") fields.size = rounded(one.size * change.by);
  if (change.kind === "turn") {
    const turns = turnsOf(product(linear(change), turnRows(one.turn_x, one.turn_y, one.turn_z)));
    [fields.turn_x, fields.turn_y, fields.turn_z] = turns.map(rounded) as Vector;
  }
  return fields;
}

/** The patch that moves parts as one; groups that are whole among them are moved themselves. */
export function movedParts(change: Change, pivot: Vector, stood: Stood, keys: string[]): Operation[] {
  const { parts, part_groups: groups } = stood;
  const there = keys.filter((key) => parts[key]);
  if (change.kind === "scale" && change.axis !== null)
    return there.flatMap((key) => stretched(change, pivot, key, parts[key]!, stood));
  return topsOf(parts, groups, there).flatMap(({ section, key }) =>
    Object.entries(moved(change, pivot, stood[section][key]!, groups)).map(([field, value]) =>
      replace(pointer(section, key, field), value),
    ),
  );
}
