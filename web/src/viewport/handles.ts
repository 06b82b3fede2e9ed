/**
 * Moving, turning and scaling by hand: from a drag of a handle to a change, and what that makes of lights.
 * Lengths in metres, angles in radians.
 */
import type { Light, Operation } from "../api/types";
import { extentsOf } from "../light/lights";
import { pointer, replace } from "../store/patch";
import type { Ray } from "./projection";
import { add, cross, dot, length, normalize, scale, sub, type Vector } from "./vectors";

export type Axis = 0 | 1 | 2;
export const AXES: Vector[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
export const LETTERS = ["X", "Y", "Z"] as const;

/** One change by hand about a pivot; `axis` null is all ways at once. */
export type Change =
  | { kind: "move"; axis: Axis | null; by: Vector }
  | { kind: "turn"; axis: Axis; by: number }
  | { kind: "scale"; axis: Axis | null; by: number };

/** Where on the line through `point` along `axis` a ray passes closest; null when they are parallel. */
export function alongAxis(ray: Ray, point: Vector, axis: Vector): number | null {
  const between = sub(point, ray.origin);
  const slope = dot(ray.direction, axis);
  const apart = 1 - slope * slope;
  if (apart < 1e-6) return null;
  return (slope * dot(between, ray.direction) - dot(between, axis)) / apart;
}

/** Where a ray meets the plane through `point` across `normal`; null when it does not. */
export function onPlane(ray: Ray, point: Vector, normal: Vector): Vector | null {
  const slope = dot(ray.direction, normal);
  if (Math.abs(slope) < 1e-6) return null;
  const distance = dot(sub(point, ray.origin), normal) / slope;
  return distance > 0 ? add(ray.origin, scale(ray.direction, distance)) : null;
}

/** Angle from `from` to `to` about `pivot`, seen against `axis`, in (-π, π]. */
export function angleAbout(axis: Vector, pivot: Vector, from: Vector, to: Vector): number {
  const a = sub(from, pivot);
  const b = sub(to, pivot);
  return Math.atan2(dot(cross(a, b), axis), dot(a, b));
}

/** A round step for moving things of this size: 1, 10, 100 … mm. */
export const moveStep = (size: number) => 10 ** Math.floor(Math.log10(Math.max(size, 1e-6) / 10));
export const TURN_STEP = Math.PI / 12;
export const SCALE_STEP = 0.1;
export const snapped = (value: number, step: number) => Math.round(value / step) * step;

/** A turn about an axis as rows of a matrix. */
function turnMatrix(axis: Vector, angle: number): Vector[] {
  const [x, y, z] = axis;
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const t = 1 - c;
  return [
    [t * x * x + c, t * x * y - s * z, t * x * z + s * y],
    [t * x * y + s * z, t * y * y + c, t * y * z - s * x],
    [t * x * z - s * y, t * y * z + s * x, t * z * z + c],
  ];
}

const IDENTITY: Vector[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** The linear part of a change. */
export function linear(change: Change): Vector[] {
  if (change.kind === "turn") return turnMatrix(AXES[change.axis]!, change.by);
  if (change.kind === "scale")
    return IDENTITY.map((row, i) => scale(row, change.axis === null || change.axis === i ? change.by : 1));
  return IDENTITY;
}

const times = (rows: Vector[], v: Vector): Vector => [dot(rows[0]!, v), dot(rows[1]!, v), dot(rows[2]!, v)];

/** Where a change about `pivot` takes a point. */
export function movedPoint(change: Change, pivot: Vector, point: Vector): Vector {
  if (change.kind === "move") return add(point, change.by);
  return add(pivot, times(linear(change), sub(point, pivot)));
}

const rounded = (value: number) => Number(value.toFixed(9));

const numbersOf = (light: Light) => light as unknown as Record<string, number>;

/** How big a light is [m]; one of no size counts by how far it shines. */
export function sizeOf(light: Light): number {
  const extents = extentsOf(light.kind).map((field) => numbersOf(light)[field]!);
  return Math.max(...extents, length(sub(light.target as Vector, light.position as Vector)) / 4);
}

/** The patch that moves a light, turns its aim about it, or changes its size. */
export function movedLight(change: Change, key: string, light: Light): Operation[] {
  const at = (field: string, value: unknown) => replace(pointer("lights", key, field), value);
  const place = (v: Vector) => v.map(rounded);
  const position = light.position as Vector;
  const target = light.target as Vector;
  if (change.kind === "move") return [at("position", place(add(position, change.by)))];
  if (change.kind === "turn") return [at("target", place(movedPoint(change, position, target)))];
  return extentsOf(light.kind).map((field) =>
    at(field, rounded(numbersOf(light)[field]! * Math.max(change.by, 0.001))),
  );
}

/** What a drag of a handle means: from the ray at its start to the ray now. */
export function dragged(
  kind: "move" | "turn" | "scale",
  axis: Axis | null,
  pivot: Vector,
  view: Vector,
  from: Ray,
  to: Ray,
): Change | null {
  const line = axis === null ? null : AXES[axis]!;
  if (kind === "turn") {
    if (line === null) return null;
    const start = onPlane(from, pivot, line);
    const end = onPlane(to, pivot, line);
    return start && end ? { kind, axis: axis as Axis, by: angleAbout(line, pivot, start, end) } : null;
  }
  if (line !== null) {
    const start = alongAxis(from, pivot, line);
    const end = alongAxis(to, pivot, line);
    if (start === null || end === null) return null;
    if (kind === "move") return { kind, axis, by: scale(line, end - start) };
    return Math.abs(start) < 1e-9 ? null : { kind, axis, by: Math.max(end / start, 0.001) };
  }
  const start = onPlane(from, pivot, view);
  const end = onPlane(to, pivot, view);
  if (!start || !end) return null;
  if (kind === "move") return { kind, axis, by: sub(end, start) };
  const before = length(sub(start, pivot));
  return before < 1e-9 ? null : { kind, axis, by: Math.max(length(sub(end, pivot)) / before, 0.001) };
}

/** The change rounded to even steps. */
export function snap(change: Change, size: number): Change {
  if (change.kind === "turn") return { ...change, by: snapped(change.by, TURN_STEP) };
  if (change.kind === "scale") return { ...change, by: Math.max(snapped(change.by, SCALE_STEP), SCALE_STEP) };
  const step = moveStep(size);
  return { ...change, by: change.by.map((v) => snapped(v, step)) as Vector };
}

/** The change with its amount typed: metres along the axis, degrees, or a factor. */
export function typedChange(change: Change, amount: number): Change {
  if (change.kind === "turn") return { ...change, by: (amount * Math.PI) / 180 };
  if (change.kind === "scale") return { ...change, by: Math.max(amount, 0.001) };
  if (change.axis !== null) return { ...change, by: scale(AXES[change.axis]!, amount) };
  const direction = length(change.by) > 1e-9 ? normalize(change.by) : AXES[0]!;
  return { ...change, by: scale(direction, amount) };
}

/** "Move X 0.050 m" */
export function describe(change: Change): string {
  const axis = change.axis === null ? "" : ` ${LETTERS[change.axis]}`;
  if (change.kind === "turn") return `Turn${axis} ${((change.by * 180) / Math.PI).toFixed(1)}°`;
  if (change.kind === "scale") return `Scale${axis} ${change.by.toFixed(3)} ×`;
  const amount = change.axis === null ? length(change.by) : change.by[change.axis]!;
  return `Move${axis} ${amount.toFixed(4)} m`;
}
