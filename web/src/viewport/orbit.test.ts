import { describe, expect, it } from "vitest";
import type { Camera } from "../api/types";
import {
  between,
  dolly,
  dollyFramed,
  horizonOf,
  lookAround,
  orbit,
  orbitAbout,
  otherLens,
  pan,
  reach,
  roll,
  tumble,
  walk,
  zoom,
} from "./orbit";
import { projection } from "./projection";
import type { Vector } from "./vectors";

const camera: Camera = {
  position: [0, 0, 2],
  target: [0, 0, 0],
  projection: "perspective",
  focal_length: 36,
  sensor_width: 36,
  f_number: null,
  focus_distance: 1.5,
  blades: null,
  blade_rotation: 0,
  blade_roundness: 0,
  cats_eye: 0,
  squeeze: 1,
  focus_tilt: 0,
  focus_swing: 0,
  shift_x: 0,
  shift_y: 0,
  distortion: 0,
  roll: 0,
  focus_on: null,
  close_up: null,
  exposure_time: null,
  iso: 100,
  keys: [],
};
const expectNear = (found: number[], wanted: number[]) => {
  for (const [i, v] of found.entries()) expect(v).toBeCloseTo(wanted[i]!, 5);
};
const distance = (c: Camera) => Math.hypot(...c.position.map((p, i) => p - c.target[i]!));

describe("orbit", () => {
  it("turns about the target and keeps the distance", () => {
    const turned = orbit(camera, Math.PI / 2, 0);
    expectNear(turned.position, [2, 0, 0]);
    expect(distance(orbit(camera, 0.3, 0.4))).toBeCloseTo(2, 5);
  });

  it("stops short of the pole, where the picture would flip", () => {
    const top = orbit(camera, 0, 10);
    expect(top.position[1]).toBeGreaterThan(1.99);
    expect(Math.hypot(top.position[0], top.position[2])).toBeGreaterThan(0.01);
  });
});

describe("pan", () => {
  it("shifts camera and target alike, by shares of what is in the picture", () => {
    const shifted = pan(camera, 0.5, 0.25);
    expectNear(shifted.target, [1, 0.5, 0]);
    expectNear(shifted.position, [1, 0.5, 2]);
  });
});

describe("dolly", () => {
  it("moves towards the target and takes the focus along", () => {
    const near = dolly(camera, 0.5);
    expect(distance(near)).toBeCloseTo(1, 6);
    expect(near.focus_distance).toBeCloseTo(0.5, 6);
  });

  it("never passes through the target", () => {
    let c = camera;
    for (let i = 0; i < 200; i++) c = dolly(c, 0.5);
    expect(distance(c)).toBeGreaterThan(0);
    expect(c.focus_distance).toBeGreaterThan(0);
  });
});

describe("zoom", () => {
  it("changes the lens and not the place, within what lenses there are", () => {
    expect(zoom(camera, 2)).toMatchObject({ focal_length: 72, position: [0, 0, 2] });
    expect(zoom(camera, 1e6).focal_length).toBe(2000);
    expect(reach(dolly(camera, 0.5))).toBeCloseTo(1, 6);
  });

  it("pans a camera that looks straight down", () => {
    const top = {
      ...camera,
      position: [0, 2, 0] as [number, number, number],
      projection: "orthographic" as const,
    };
    const moved = pan(top, 0.5, 0);
    expectNear(moved.target, [1, 0, 0]);
  });
});

describe("lenses and ways between cameras", () => {
  it("keep the framing of the target while the perspective changes", () => {
    const after = dollyFramed(camera, 2);
    expect(after.focal_length).toBeCloseTo(2 * camera.focal_length, 3);
    expect(reach(after) / reach(camera)).toBeCloseTo(2, 4);
    expect(after.target).toEqual(camera.target);
    const longest = dollyFramed({ ...camera, focal_length: 1900 }, 2);
    expect(reach(longest) / reach(camera)).toBeCloseTo(longest.focal_length / 1900, 4);
  });

  it("step through the series of real lenses, of any sensor", () => {
    const steps = [
      otherLens({ ...camera, focal_length: 50 }, 1),
      otherLens({ ...camera, focal_length: 50 }, -1),
    ];
    expect(steps.map((one) => one.focal_length)).toEqual([58, 40]);
    expect(otherLens({ ...camera, focal_length: 51.3 }, -1).focal_length).toBe(50);
    expect(otherLens({ ...camera, sensor_width: 18, focal_length: 25 }, 1).focal_length).toBe(29);
    expect(otherLens({ ...camera, focal_length: 900 }, 1).focal_length).toBe(900);
  });

  it("begin at one camera, end at the other, and go around what stands between them", () => {
    const to = { ...camera, position: [0, 0.1, -3], target: [0, 0, 0], focal_length: 35 } as Camera;
    const from = { ...camera, position: [0, 0.1, 3], target: [0, 0, 0] } as Camera;
    for (const [share, end] of [
      [0, from],
      [1, to],
    ] as const)
      for (const [i, value] of between(from, to, share).position.entries())
        expect(value).toBeCloseTo(end.position[i]!, 4);
    for (const share of [0.25, 0.5, 0.75])
      expect(reach(between(from, to, share))).toBeCloseTo(reach(from), 1);
  });
});

describe("what the hand presses", () => {
  const pressed: Vector = [0.3, 0.2, 0.4];
  const placeOf = (c: Camera) =>
    projection({ ...c, orthographic: false } as Parameters<typeof projection>[0], 1.6).project(pressed);

  it("stays as far away and where it is in the picture while the camera turns about it", () => {
    const before = placeOf(camera);
    for (const after of [orbitAbout(camera, pressed, 0.6, 0), tumble(camera, pressed, 0.4, 0.3)]) {
      const now = placeOf(after);
      expect(now.x).toBeCloseTo(before.x, 4);
      expect(now.y).toBeCloseTo(before.y, 4);
      expect(now.depth).toBeCloseTo(before.depth, 4);
    }
  });

  it("is turned about over the pole, and the roll tells how the picture lies", () => {
    const over = tumble(camera, [0, 0, 0], 0, Math.PI / 2 + 0.2);
    expect(over.position[1]).toBeGreaterThan(1.9);
    expect(over.position[2]).toBeLessThan(0);
    expect(Math.abs(over.roll)).toBeCloseTo(180, 1);
    const back = tumble(over, [0, 0, 0], 0, -Math.PI / 2 - 0.2);
    expectNear(back.position, [0, 0, 2]);
    expect(back.roll).toBeCloseTo(0, 3);
  });
});

describe("roll", () => {
  it("turns the picture's own axes: what is panned goes along them", () => {
    const rolled = roll(camera, Math.PI / 2);
    expect(rolled.roll).toBe(90);
    expectNear(pan(rolled, 0.5, 0).target, [0, -1, 0]);
    expect(roll(rolled, 1.5 * Math.PI).roll).toBeCloseTo(0, 6);
  });

  it("tilts the horizon to the other side", () => {
    expect(horizonOf(camera, 1.5)).toEqual([0.5, 0.5]);
    const [left, right] = horizonOf({ ...camera, roll: 10 }, 1.5)!;
    expect(left - right).toBeCloseTo(Math.tan(Math.PI / 18) * 1.5, 5);
    expect(horizonOf({ ...camera, roll: 90 }, 1.5)).toBeNull();
  });

  it("goes the shorter way from shot to shot", () =>
    expect(between({ ...camera, roll: 350 }, { ...camera, roll: 10 }, 0.5).roll).toBeCloseTo(360, 4));
});

describe("walking", () => {
  it("goes on the level, whatever the camera looks down at, and takes along what it looks at", () => {
    const down: Camera = { ...camera, position: [0, 2, 2], target: [0, 0, 0] };
    const after = walk(down, 1, 0.5, 0.25);
    expectNear(after.position, [0.5, 2.25, 1]);
    expectNear(after.target, [0.5, 0.25, -1]);
  });

  it("looks around without moving", () => {
    const after = lookAround(camera, -Math.PI / 2, 0);
    expectNear(after.position, [0, 0, 2]);
    expectNear(after.target, [2, 0, 2]);
  });
});
