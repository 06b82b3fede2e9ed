/** The box of the haze over the picture: its edges, and its sides where they are taken hold of. */
import { AXES, type Axis, alongAxis } from "./handles";
import type { Ray } from "./projection";
import { add, scale, type Vector } from "./vectors";

export interface HazeBox {
  low: Vector;
  high: Vector;
}

export interface Side {
  axis: Axis;
  end: "low" | "high";
}

export const SIDES: readonly Side[] = ([0, 1, 2] as const).flatMap((axis): Side[] => [
  { axis, end: "low" },
  { axis, end: "high" },
]);
/** Of the asset's size: how thin a box may be made. */
const THINNEST = 1e-3;
const STEPS = 8;

/** The middle of a side. */
export function middleOf(box: HazeBox, { axis, end }: Side): Vector {
  const middle = box.low.map((v, i) => (v + box.high[i]!) / 2) as Vector;
  middle[axis] = box[end][axis];
  return middle;
}

/** The twelve edges, each in steps: a part of one may lie behind the camera. */
export function edgesOf({ low, high }: HazeBox): Vector[][] {
  const corner = (bits: number): Vector =>
    [0, 1, 2].map((i) => (bits & (1 << i) ? high[i]! : low[i]!)) as Vector;
  const edges: Vector[][] = [];
  for (let from = 0; from < 8; from++)
    for (const axis of [0, 1, 2])
      if (!(from & (1 << axis))) {
        const [a, b] = [corner(from), corner(from | (1 << axis))];
        edges.push(
          Array.from({ length: STEPS + 1 }, (_, k) => add(scale(a, 1 - k / STEPS), scale(b, k / STEPS))),
        );
      }
  return edges;
}

/** The box with a side where a ray passes nearest to its axis; it never turns inside out. */
export function draggedBox(box: HazeBox, side: Side, ray: Ray): HazeBox {
  const { axis, end } = side;
  const by = alongAxis(ray, middleOf(box, side), AXES[axis]!);
  if (by === null) return box;
  const least = THINNEST * Math.hypot(...box.low.map((v, i) => box.high[i]! - v));
  const to = box[end][axis] + by;
  const kept = end === "low" ? Math.min(to, box.high[axis] - least) : Math.max(to, box.low[axis] + least);
  const moved = [...box[end]] as Vector;
  moved[axis] = Number(kept.toPrecision(6));
  return { ...box, [end]: moved };
}
