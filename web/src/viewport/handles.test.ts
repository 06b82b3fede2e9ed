import { describe, expect, it } from "vitest";
import type { Light } from "../api/types";
import { alongAxis, angleAbout, dragged, movedLight, onPlane, sizeOf, snap, typedChange } from "./handles";
import type { Ray } from "./projection";
import type { Vector } from "./vectors";

const near = (found: readonly number[], wanted: number[]) => {
  expect(found).toHaveLength(wanted.length);
  for (const [i, v] of found.entries()) expect(v).toBeCloseTo(wanted[i]!, 6);
};
const towards = (x: number, y: number): Ray => {
  const d: Vector = [x, y, -2];
  const n = Math.hypot(...d);
  return { origin: [0, 0, 2], direction: d.map((v) => v / n) as Vector };
};

describe("rays and handles", () => {
  it("finds the place on an axis that a ray passes", () => {
    expect(alongAxis(towards(0.5, 0), [0, 0, 0], [1, 0, 0])).toBeCloseTo(0.5, 9);
    expect(alongAxis({ origin: [0, 1, 0], direction: [1, 0, 0] }, [0, 0, 0], [1, 0, 0])).toBeNull();
  });

  it("meets planes in front of it only", () => {
    near(onPlane(towards(0.3, -0.2), [0, 0, 0], [0, 0, 1])!, [0.3, -0.2, 0]);
    expect(onPlane(towards(0, 0), [0, 0, 3], [0, 0, 1])).toBeNull();
  });

  it("measures angles against the axis", () => {
    expect(angleAbout([0, 0, 1], [0, 0, 0], [1, 0, 0], [0, 1, 0])).toBeCloseTo(Math.PI / 2, 9);
  });
});

describe("drags", () => {
  it("moves along one axis, whatever the hand does beside it", () => {
    const change = dragged("move", 0, [0, 0, 0], [0, 0, 1], towards(0.1, 0), towards(0.4, 0.3));
    expect(change?.kind).toBe("move");
    const { by } = change as { by: Vector };
    expect(by[0]).toBeGreaterThan(0.25);
    near(by.slice(1), [0, 0]);
    const straight = dragged("move", 0, [0, 0, 0], [0, 0, 1], towards(0.1, 0), towards(0.4, 0));
    near((straight as { by: Vector }).by, [0.3, 0, 0]);
  });

  it("turns a quarter and scales to the double", () => {
    const turn = dragged("turn", 2, [0, 0, 0], [0, 0, 1], towards(0.2, 0), towards(0, 0.2));
    near([(turn as { by: number }).by], [Math.PI / 2]);
    const grow = dragged("scale", null, [0, 0, 0], [0, 0, 1], towards(0.2, 0), towards(0.4, 0));
    near([(grow as { by: number }).by], [2]);
  });

  it("snaps to round steps and takes typed amounts", () => {
    near((snap({ kind: "move", axis: 0, by: [0.0123, 0, 0] }, 0.3) as { by: Vector }).by, [0.01, 0, 0]);
    near([(snap({ kind: "turn", axis: 1, by: 0.25 }, 1) as { by: number }).by], [Math.PI / 12]);
    near((typedChange({ kind: "move", axis: 2, by: [0, 0, 9] }, 0.05) as { by: Vector }).by, [0, 0, 0.05]);
    near([(typedChange({ kind: "turn", axis: 1, by: 1 }, 90) as { by: number }).by], [Math.PI / 2]);
  });
});

describe("lights", () => {
  it("turns a light's aim and scales its size", () => {
    const light = {
      kind: "rectangle",
      position: [0, 1, 0],
      target: [0, 1, 1],
      width: 0.2,
      height: 0.4,
    } as unknown as Light;
    const [aim] = movedLight({ kind: "turn", axis: 1, by: Math.PI / 2 }, "k", light);
    near(aim!.value as number[], [1, 1, 0]);
    const sizes = movedLight({ kind: "scale", axis: null, by: 1.5 }, "k", light);
    near(
      sizes.map((o) => o.value as number),
      [0.3, 0.6],
    );
    const point = { kind: "point", position: [0, 2, 0], target: [0, 0, 0] } as unknown as Light;
    expect(movedLight({ kind: "scale", axis: null, by: 1.5 }, "k", point)).toEqual([]);
    expect(sizeOf(point)).toBe(0.5);
  });
});
