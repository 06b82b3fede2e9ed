import { describe, expect, it } from "vitest";
import type { Camera } from "../api/types";
import { dolly, orbit, pan, reach, zoom } from "./orbit";

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
  shift_x: 0,
  shift_y: 0,
  distortion: 0,
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
