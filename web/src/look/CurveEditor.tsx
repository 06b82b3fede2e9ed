/** A curve by its points: pressed into being, dragged, removed with Delete or by a double click. */
import Box from "@mui/material/Box";
import { type KeyboardEvent, type PointerEvent, useEffect, useId, useRef } from "react";
import { mostPoints } from "../api/fields.gen";
import { valueAt } from "../controls/fields";
import { useScene, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import { type CurvePoint, pathOf, withEnds, withNew, withPoint } from "./curve";

interface Props {
  /** Where the points lie in the document. */
  at: readonly string[];
  label: string;
  color: string;
  /** Height at which the curve changes nothing, of one over hues; null for a tone curve. */
  neutral: number | null;
  /** Drawn behind: where grey and white are, or the hues. */
  background?: React.ReactNode;
}

export const [WIDTH, HEIGHT] = [248, 132];
const STEP = 0.01;
const NONE: CurvePoint[] = [];
/** A point is what stands at its place in the row: while it is dragged, all else of it changes. */
const NUMBERS = Array.from({ length: mostPoints }, (_, number) => number);

export function CurveEditor({ at, label, color, neutral, background }: Props) {
  const workspace = useWorkspace();
  const points = useScene((s) => (valueAt(s, at) as CurvePoint[] | undefined) ?? NONE);
  const held = useRef<Gesture<CurvePoint[]> | null>(null);
  const sheet = useRef<SVGSVGElement>(null);
  const hint = useId();
  const rises = neutral === null;
  useEffect(() => () => held.current?.commit(), []);

  const begin = (): Gesture<CurvePoint[]> => {
    const gesture = workspace.begin(label);
    return { ...gesture, preview: (next) => gesture.preview([replace(pointer(...at), next)]) };
  };
  const set = (next: CurvePoint[]) => workspace.commit([replace(pointer(...at), next)], label);
  const placeOf = (event: { clientX: number; clientY: number }): CurvePoint => {
    const box = sheet.current!.getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height];
  };
  const drag = (event: PointerEvent<SVGElement>, from: CurvePoint[], number: number) => {
    event.preventDefault();
    event.stopPropagation();
    const target = sheet.current!;
    target.setPointerCapture(event.pointerId);
    held.current = begin();
    held.current.preview(from);
    const move = (moved: globalThis.PointerEvent) =>
      held.current?.preview(withPoint(from, number, placeOf(moved), rises));
    const end = () => {
      target.removeEventListener("pointermove", move);
      held.current?.commit();
      held.current = null;
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", end, { once: true });
    target.addEventListener("pointercancel", end, { once: true });
  };
  const press = (event: PointerEvent<SVGSVGElement>) => {
    if (event.button !== 0 || points.length >= mostPoints) return;
    const found = withNew(points, placeOf(event), rises);
    if (found) drag(event, found.points, found.number);
  };
  const remove = (number: number) => set(points.filter((_, i) => i !== number));
  const keyed = (event: KeyboardEvent, number: number) => {
    const [x, y] = points[number]!;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowDown: [0, -1], ArrowUp: [0, 1] }[event.key];
    if (event.key === "Delete" || event.key === "Backspace") remove(number);
    else if (way) set(withPoint(points, number, [x + way[0]! * STEP, y + way[1]! * STEP], rises));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Box role="group" aria-label={`Curve: ${label}`} aria-describedby={hint} sx={{ my: 0.5 }}>
      <svg
        ref={sheet}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        onPointerDown={press}
        style={{
          display: "block",
          width: "100%",
          background: "#191919",
          borderRadius: 4,
          cursor: "crosshair",
          touchAction: "none",
        }}
      >
        <title>{label}</title>
        {background}
        <path
          d={pathOf(withEnds(points, neutral), WIDTH, HEIGHT)}
          fill="none"
          stroke={color}
          strokeWidth={1.5}
        />
        {NUMBERS.slice(0, points.length).map((number) => (
          <circle
            key={number}
            cx={points[number]![0] * WIDTH}
            cy={(1 - points[number]![1]) * HEIGHT}
            r={5}
            fill="#191919"
            stroke={color}
            strokeWidth={2}
            tabIndex={0}
            role="slider"
            aria-label={`${label}, point ${number + 1}`}
            aria-valuemin={0}
            aria-valuemax={1}
            aria-valuenow={points[number]![1]}
            onPointerDown={(event) => drag(event, [...points], number)}
            onDoubleClick={() => remove(number)}
            onKeyDown={(event) => keyed(event, number)}
            style={{ cursor: "move" }}
          />
        ))}
      </svg>
      <Box id={hint} hidden>
        Press to add a point, drag it, double-click or Delete to remove it.
      </Box>
    </Box>
  );
}
