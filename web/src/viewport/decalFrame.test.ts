import { describe, expect, it } from "vitest";
import type { Decal, Scene } from "../api/types";
import {
  cornersOf,
  frameOf,
  frameOfPlacement,
  inSpaceOf,
  polar,
  turnedPlacement,
  within,
} from "./decalFrame";

const decal = (changes: object = {}) =>
  ({
    parts: ["part"],
    middle: [0, 0, 0],
    facing: [0, 0, 1],
    upright: [0, 1, 0],
    turn: 0,
    width: 2,
    stretch: 1,
    ...changes,
  }) as unknown as Decal;

const scene = (changes: object = {}) =>
  ({
    parts: {
      part: {
        matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0],
        keys: [],
        pivot: [0, 0, 0],
        offset: [0, 0, 0],
        turn_x: 0,
        turn_y: 0,
        turn_z: 0,
        size: 1,
        mirror: "none",
        group: null,
        ...changes,
      },
    },
    part_groups: {},
    asset: null,
  }) as unknown as Scene;

const close = (found: readonly number[], wanted: number[]) =>
  found.forEach((value, i) => {
    expect(value).toBeCloseTo(wanted[i]!, 6);
  });

describe("the frame of a decal", () => {
  it("has its width, and its height from what is on it", () => {
    const corners = cornersOf(frameOf(decal({ stretch: 2 }), 0.25, scene())!);
    close(corners[0]!, [-1, -0.5, 0]);
    close(corners[2]!, [1, 0.5, 0]);
  });

  it("goes where its part goes, and grows with it", () => {
    const { middle, right } = frameOf(
      decal({ middle: [0, 0, 1] }),
      1,
      scene({ offset: [0, 3, 0], turn_y: 90, size: 2 }),
    )!;
    close(middle, [2, 3, 0]);
    close(right, [0, 0, -2]);
  });

  it("is in metres whatever unit its file has", () => {
    const tenths = {
      ...scene({ matrix: [0.1, 0, 0, 0, 0, 0.1, 0, 0, 0, 0, 0.1, 0] }),
      asset: { scale: 0.2, up: "+y" },
    };
    const { middle, right } = frameOf(decal({ middle: [0, 0, 1] }), 1, tenths as unknown as Scene)!;
    close(middle, [0, 0, 1]);
    close(right, [1, 0, 0]);
  });

  it("lies somewhere when its directions are none", () => {
    close(frameOf(decal({ facing: [0, 0, 0], upright: [0, 0, 0] }), 1, scene())!.right, [1, 0, 0]);
  });

  it("is turned counterclockwise on a mirrored part too", () => {
    close(frameOf(decal({ turn: 90 }), 1, scene({ mirror: "x" }))!.right, [0, 1, 0]);
  });

  it("is read from left to right on a part that is mirrored", () => {
    const { right, middle } = frameOf(decal({ middle: [0.5, 0, 0] }), 1, scene({ mirror: "x" }))!;
    close(middle, [-0.5, 0, 0]);
    close(right, [1, 0, 0]);
  });

  it("is turned about what it faces, counterclockwise", () => {
    close(frameOf(decal({ turn: 90 }), 1, scene())!.right, [0, 1, 0]);
  });

  it("has its foot towards whoever stands before it when it lies flat", () => {
    const { right, up } = frameOf(decal({ facing: [0, 1, 0] }), 1, scene())!;
    close(right, [1, 0, 0]);
    close(up, [0, 0, -1]);
  });

  it("is nowhere when its parts are gone, and on the first that is left", () => {
    expect(frameOf(decal({ parts: ["lost"] }), 1, scene())).toBeNull();
    expect(frameOf(decal({ parts: ["lost", "part"] }), 1, scene())).not.toBeNull();
  });

  it("measures the hand from its middle, upwards as in the scene", () => {
    expect(polar([10, 10], 10, 5)).toEqual({ angle: 90, distance: 5 });
    expect(within(270)).toBe(-90);
    expect(within(-190)).toBe(170);
  });
});

describe("the frame of a placement", () => {
  const placement = (changes: object = {}) =>
    ({
      kind: "box",
      space: "part",
      size: 0.2,
      ratio: 0.5,
      offset: [0.1, 0, 0],
      turn_x: 0,
      turn_y: 0,
      turn_z: 0,
      ...changes,
    }) as unknown as Parameters<typeof frameOfPlacement>[0];

  it("is one repeat about its middle, on the part wherever that stands", () => {
    const found = frameOfPlacement(placement(), "part", scene({ offset: [0, 1, 0], turn_y: 90 }))!;
    close(found.middle, [0, 1, -0.1]);
    close(found.right, [0, 0, -0.1]);
    close(found.up, [0, 0.05, 0]);
  });

  it("stays where it is when the scene carries it", () => {
    const found = frameOfPlacement(placement({ space: "scene" }), "part", scene({ offset: [0, 1, 0] }))!;
    close(found.middle, [0.1, 0, 0]);
  });

  it("is none by coordinates, and none of a part that is gone", () => {
    expect(frameOfPlacement(placement({ kind: "uv" }), "part", scene())).toBeNull();
    expect(frameOfPlacement(placement(), "lost", scene())).toBeNull();
  });

  it("takes a point of the scene back to where it is on the part", () => {
    const there = scene({ offset: [0, 1, 0], turn_y: 90, size: 2 });
    const { middle } = frameOfPlacement(placement({ offset: [0.3, 0.2, 0.1] }), "part", there)!;
    close(inSpaceOf(placement(), "part", there, middle)!, [0.3, 0.2, 0.1]);
  });

  it("is turned about its own depth", () => {
    close(turnedPlacement(placement(), 30), [0, 0, 30]);
    const turned = turnedPlacement(placement({ turn_x: 90 }), 40);
    const before = frameOfPlacement(placement({ turn_x: 90, ratio: 1 }), "part", scene())!;
    const [x, y, z] = turned;
    const after = frameOfPlacement(
      placement({ turn_x: x, turn_y: y, turn_z: z, ratio: 1 }),
      "part",
      scene(),
    )!;
    const across = before.right.map(
      (v, i) => v * Math.cos((40 * Math.PI) / 180) + before.up[i]! * Math.sin((40 * Math.PI) / 180),
    );
    close(after.right, across);
  });
});
