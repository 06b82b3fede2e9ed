/**
 * The outlines of lights in the scene, as lantern/light shapes them. In: a light and the direction towards the viewer.
 * Out: lines through points [m]. Used by what is drawn over the picture.
 */
import type { Light } from "../api/types";
import { add, cross, length, normalize, scale, sub, type Vector } from "./vectors";

const ROUND = 64;
const LONGEST_UP = 0.999;

/** (across, along, forward) of something that looks from a position to a target; roll in degrees. */
export function aim(position: Vector, target: Vector, roll: number): [Vector, Vector, Vector] {
  const to = sub(target, position);
  const forward: Vector = length(to) > 1e-9 ? normalize(to) : [0, -1, 0];
  const up: Vector = Math.abs(forward[1]) < LONGEST_UP ? [0, 1, 0] : [0, 0, -1];
  const across = normalize(cross(forward, up));
  const along = cross(across, forward);
  const [c, s] = [Math.cos((roll * Math.PI) / 180), Math.sin((roll * Math.PI) / 180)];
  return [add(scale(across, c), scale(along, s)), add(scale(along, c), scale(across, -s)), forward];
}

function circle(middle: Vector, a: Vector, b: Vector, radius: number): Vector[] {
  return Array.from({ length: ROUND + 1 }, (_, i) => {
    const angle = (i / ROUND) * 2 * Math.PI;
    const aside = add(scale(a, radius * Math.cos(angle)), scale(b, radius * Math.sin(angle)));
    return add(middle, aside);
  });
}

/** Two directions across a third. */
function acrossOf(direction: Vector): [Vector, Vector] {
  const a = normalize(cross(direction, Math.abs(direction[1]) < LONGEST_UP ? [0, 1, 0] : [1, 0, 0]));
  return [a, cross(a, direction)];
}

/** Share of the way to what a light aims at that its distribution is drawn large. */
const SOLID_SHARE = 0.35;
const RINGS_EVERY = 6;

/** The photometric solid of a light, as lines about it: half planes, and rings about its axis. */
export function solidLines(light: Light, planes: readonly Vector[][]): Vector[][] {
  const position = light.position as Vector;
  const [across, along, forward] = aim(position, light.target as Vector, "roll" in light ? light.roll : 0);
  const reach = length(sub(light.target as Vector, position)) * SOLID_SHARE;
  const placed = planes.map((plane) =>
    plane.map(([x, y, z]) =>
      add(position, scale(add(add(scale(across, x), scale(along, y)), scale(forward, z)), reach)),
    ),
  );
  const rings: Vector[][] = [];
  for (let at = RINGS_EVERY; at < (placed[0]?.length ?? 0) - 1; at += RINGS_EVERY)
    rings.push([...placed, placed[0]!].map((plane) => plane[at]!));
  return [...placed, ...rings];
}

/** The line from a light to what it aims at, and an arrow head; none where it has no direction. */
export function beam(light: Light): Vector[][] {
  if (light.kind === "point" || light.kind === "sphere" || light.kind === "directional") return [];
  const [position, target] = [light.position as Vector, light.target as Vector];
  const [across, along, forward] = aim(position, target, 0);
  const head = length(sub(target, position)) * 0.015;
  const base = add(target, scale(forward, -2 * head));
  const ends = [across, scale(across, -1), along, scale(along, -1)];
  return [[position, target], ...ends.map((end): Vector[] => [target, add(base, scale(end, head))])];
}

/** The lines that show a light's true shape; none for one that has no size. */
export function outline(light: Light, backwards: Vector): Vector[][] {
  const position = light.position as Vector;
  const [across, along, forward] = aim(position, light.target as Vector, "roll" in light ? light.roll : 0);
  const at = (x: number, y: number) => add(position, add(scale(across, x), scale(along, y)));
  switch (light.kind) {
    case "rectangle": {
      const [x, y] = [light.width / 2, light.height / 2];
      return [[at(-x, -y), at(x, -y), at(x, y), at(-x, y), at(-x, -y)]];
    }
    case "disk":
      return [circle(position, across, along, light.radius)];
    case "sphere":
      return [circle(position, ...acrossOf(backwards), light.radius)];
    case "tube": {
      const ends = [at(-light.length / 2, 0), at(light.length / 2, 0)] as const;
      const side = cross(across, backwards);
      const sides = length(side) > 1e-6 ? [1, -1].map((s) => scale(normalize(side), s * light.radius)) : [];
      return [
        ...ends.map((end) => circle(end, along, forward, light.radius)),
        ...sides.map((by) => ends.map((end) => add(end, by))),
      ];
    }
    case "spot": {
      const reach = length(sub(light.target as Vector, position));
      const half = (Math.min(light.cone, 170) / 2) * (Math.PI / 180);
      const rim = circle(
        add(position, scale(forward, reach * Math.cos(half))),
        across,
        along,
        reach * Math.sin(half),
      );
      return [rim, ...[0, 1, 2, 3].map((i) => [position, rim[(i * ROUND) / 4]!])];
    }
    case "directional":
      return [[position, light.target as Vector]];
    case "point":
      return [];
  }
}
