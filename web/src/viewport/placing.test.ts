/** A change of fields or of the matrix puts a part where the change itself would put its points. */
import { describe, expect, it } from "vitest";
import type { Operation, Part, PartGroup, Scene } from "../api/types";
import { part } from "../testing/workspace";
import type { Change } from "./handles";
import { movedPoint } from "./handles";
import { type Affine, affineOf, movedParts, placement, times, turnRows, turnsOf } from "./placing";
import { add, type Vector } from "./vectors";

const MATRIX = [0, -2, 0, 3, 1, 0, 0, 4, 0, 0, 1.5, 5];
const ASSET = { scale: 0.01, up: "+z" } as unknown as Scene["asset"];
const PLACED = {
  matrix: MATRIX,
  offset: [0.1, -0.2, 0.3],
  pivot: [0.5, 0.25, -0.5],
  turn_x: 20,
  turn_y: -50,
  turn_z: 130,
  size: 1.7,
  mirror: "y",
};
const POINTS: Vector[] = [
  [0, 0, 0],
  [1, 0, 0],
  [0, 1, 0],
  [0.3, -2, 7],
];
const group = (changes: object) =>
  ({ ...PLACED, name: "Group", group: null, ...changes }) as unknown as PartGroup;
const GROUPS = {
  inner: group({ group: "outer", turn_x: -40, size: 0.6, mirror: "none" }),
  outer: group({ turn_y: 70, size: 2 }),
};
const PIVOT: Vector = [0.2, 0.1, -0.4];

const put = ({ rows, shift }: Affine, point: Vector) => add(times(rows, point), shift);
const stands = (one: Part, point: Vector, matrix: readonly number[] = one.matrix) =>
  put(placement(one, { asset: ASSET, part_groups: GROUPS }), put(affineOf(matrix), point));

function patchedPart(one: Part, patch: Operation[]): Part {
  const fields = Object.fromEntries(patch.map(({ path, value }) => [path.split("/").at(-1), value]));
  return { ...one, ...fields } as Part;
}

const near = (found: readonly number[], wanted: readonly number[]) => {
  for (const [i, v] of found.entries()) expect(v).toBeCloseTo(wanted[i]!, 6);
};

describe("a placed part", () => {
  const changes: Change[] = [
    { kind: "move", axis: 0, by: [0.5, 0, 0] },
    { kind: "turn", axis: 0, by: 0.7 },
    { kind: "turn", axis: 1, by: -2 },
    { kind: "turn", axis: 2, by: 3 },
    { kind: "scale", axis: null, by: 1.3 },
    { kind: "scale", axis: 1, by: 0.4 },
  ];
  for (const mirror of ["none", "y"])
    for (const inside of [null, "inner"])
      for (const change of changes)
        it(`follows the hand: ${change.kind} ${change.axis}, mirrored: ${mirror}, in a group: ${inside}`, () => {
          const before = part("Cap", "m", { ...PLACED, mirror, group: inside }) as unknown as Part;
          const stood = { parts: { a: before, other: before }, part_groups: GROUPS, asset: ASSET };
          const patch = movedParts(change, PIVOT, stood, ["a", "gone"]);
          const after = patchedPart(before, patch);
          for (const point of POINTS)
            near(stands(after, point), movedPoint(change, PIVOT, stands(before, point)));
        });

  it("goes with its group, which is moved itself when all of it is in the hand", () => {
    const before = part("Cap", "m", { ...PLACED, group: "inner" }) as unknown as Part;
    const stood = { parts: { a: before, b: before }, part_groups: GROUPS, asset: ASSET };
    for (const change of changes.filter(({ kind, axis }) => kind !== "scale" || axis === null)) {
      const patch = movedParts(change, PIVOT, stood, ["a", "b"]);
      expect(patch.every(({ path }) => path.startsWith("/part_groups/outer/"))).toBe(true);
      const fields = Object.fromEntries(patch.map(({ path, value }) => [path.split("/").at(-1), value]));
      const part_groups = { ...GROUPS, outer: { ...GROUPS.outer, ...fields } as PartGroup };
      const there = (point: Vector) =>
        put(placement(before, { asset: ASSET, part_groups }), put(affineOf(before.matrix), point));
      for (const point of POINTS) near(there(point), movedPoint(change, PIVOT, stands(before, point)));
    }
  });

  it("carries the keys of one that moves along", () => {
    const keys = [
      { time: 0, matrix: MATRIX },
      { time: 1, matrix: MATRIX.map((v, i) => (i === 3 ? v + 1 : v)) },
    ];
    const before = part("Arm", "m", { ...PLACED, keys }) as unknown as Part;
    const change: Change = { kind: "scale", axis: 2, by: 2 };
    const after = patchedPart(
      before,
      movedParts(change, PIVOT, { parts: { a: before }, part_groups: GROUPS, asset: ASSET }, ["a"]),
    );
    for (const [i, key] of after.keys.entries())
      near(
        stands(after, [1, 2, 3], key.matrix),
        movedPoint(change, PIVOT, stands(before, [1, 2, 3], keys[i]!.matrix)),
      );
  });
});

it("angles of a turn give it again, also straight up", () => {
  for (const angles of [
    [20, -50, 130],
    [0, 90, 40],
    [170, -90, 0],
    [-100, 10, -10],
  ] as Vector[]) {
    const rows = turnRows(...angles);
    const again = turnRows(...turnsOf(rows));
    for (const [i, row] of rows.entries()) near(again[i]!, row);
  }
});
