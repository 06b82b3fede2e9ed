/** How a value goes from one key to the next: a cubic Bézier in the unit square, whose two inner points are dragged. */
import Box from "@mui/material/Box";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Gesture } from "../store/hand";

export type Bezier = [number, number, number, number];
const SIZE = 84;
const STEP = 0.02;
const KEYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, STEP],
  ArrowDown: [0, -STEP],
};
const within = (value: number) => Number(Math.min(Math.max(value, 0), 1).toFixed(3));

/** The curve with one of its points elsewhere. */
export const withPoint = (curve: Bezier, which: 0 | 1, x: number, y: number): Bezier =>
  which === 0 ? [within(x), within(y), curve[2], curve[3]] : [curve[0], curve[1], within(x), within(y)];

interface Props {
  curve: Bezier;
  begin: () => Gesture<Bezier>;
}

export function EaseEditor({ curve, begin }: Props) {
  const square = useRef<SVGSVGElement>(null);
  const held = useRef<Gesture<Bezier> | null>(null);
  const [ax, ay, bx, by] = curve;
  const at = (x: number, y: number) => `${x * SIZE} ${(1 - y) * SIZE}`;
  const drag = (which: 0 | 1) => (event: PointerEvent) => {
    if (!held.current || !square.current) return;
    const box = square.current.getBoundingClientRect();
    const [x, y] = [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height];
    held.current.preview(withPoint(curve, which, x, y));
  };
  const letGo = () => {
    held.current?.commit();
    held.current = null;
  };
  const keyed = (which: 0 | 1, x: number, y: number) => (event: KeyboardEvent) => {
    const by = KEYS[event.key];
    if (!by) return;
    event.preventDefault();
    const gesture = begin();
    gesture.preview(withPoint(curve, which, x + by[0], y + by[1]));
    gesture.commit();
  };
  const points = [
    [0, ax, ay, "Begins"],
    [1, bx, by, "Ends"],
  ] as const;
  return (
    <Box sx={{ p: 1 }}>
      <svg
        ref={square}
        width={SIZE}
        height={SIZE}
        style={{ overflow: "visible", background: "#171717", touchAction: "none" }}
      >
        <title>Course of the value</title>
        <path
          d={`M ${at(0, 0)} C ${at(ax, ay)}, ${at(bx, by)}, ${at(1, 1)}`}
          fill="none"
          stroke="#e9e4dc"
          strokeWidth={1.5}
        />
        {points.map(([which, x, y, name]) => (
          <g key={name}>
            <path d={`M ${at(which, which)} L ${at(x, y)}`} stroke="#8d867c" strokeWidth={1} />
            <circle
              cx={x * SIZE}
              cy={(1 - y) * SIZE}
              r={5}
              fill="#b978ab"
              tabIndex={0}
              role="slider"
              aria-label={`${name}, by time`}
              aria-valuemin={0}
              aria-valuemax={1}
              aria-valuenow={x}
              aria-valuetext={`${x.toFixed(2)} of the time, ${y.toFixed(2)} of the way`}
              style={{ cursor: "grab" }}
              onKeyDown={keyed(which, x, y)}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                held.current = begin();
              }}
              onPointerMove={drag(which)}
              onPointerUp={letGo}
              onPointerCancel={letGo}
            />
          </g>
        ))}
      </svg>
    </Box>
  );
}
