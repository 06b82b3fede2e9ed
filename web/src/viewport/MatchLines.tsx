/** The lines by which the camera is matched to a photograph, dragged over the picture by their ends. */
import type { PointerEvent } from "react";
import { useSlice, useWorkspace } from "../store/context";
import type { DrawnLine, Matching } from "../store/view";
import type { Place } from "./layout";

const [PLUM, BONE] = ["#d9a3cd", "#f2ece3"];
const KNOB = 7;
/** How much further than its ends a line is drawn, so that one sees where it leads. */
const BEYOND = 6;

type Way = "along" | "across";
const WAYS: readonly (readonly [Way, string])[] = [
  ["along", PLUM],
  ["across", BONE],
];

export function MatchLines({ place }: { place: Place }) {
  const workspace = useWorkspace();
  const matching = useSlice((s) => s.matching);
  if (!matching) return null;
  const drag = (moved: (x: number, y: number) => Partial<Matching>) => ({
    onPointerDown: (event: PointerEvent<SVGElement>) =>
      event.currentTarget.setPointerCapture(event.pointerId),
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      const corner = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
      if (!corner || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
      const [x, y] = [
        (event.clientX - corner.left) / place.width,
        (event.clientY - corner.top) / place.height,
      ];
      workspace.set({ matching: { ...matching, ...moved(x, y) } });
    },
    style: { pointerEvents: "auto", cursor: "grab", touchAction: "none" } as const,
  });
  const withEnd = (way: Way, line: number, end: number) => (x: number, y: number) => {
    const changed = matching[way].map((one, i) =>
      i === line ? one.map((v, k) => (k === 2 * end ? x : k === 2 * end + 1 ? y : v)) : one,
    ) as [DrawnLine, DrawnLine];
    return { [way]: changed };
  };
  const [footX, footY] = [matching.foot[0] * place.width, matching.foot[1] * place.height];
  return (
    <svg
      data-testid="match-lines"
      aria-hidden
      style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}
    >
      {WAYS.flatMap(([way, color]) =>
        ([0, 1] as const).map((i) => {
          const line = matching[way][i];
          const [x1, y1, x2, y2] = line.map(
            (v, k) => v * (k % 2 === 0 ? place.width : place.height),
          ) as DrawnLine;
          const [dx, dy] = [(x2 - x1) * BEYOND, (y2 - y1) * BEYOND];
          return (
            <g key={`${way} ${i}`} stroke={color}>
              <line
                x1={x1 - dx}
                y1={y1 - dy}
                x2={x2 + dx}
                y2={y2 + dy}
                strokeOpacity={0.45}
                strokeDasharray="3 5"
              />
              <line x1={x1} y1={y1} x2={x2} y2={y2} strokeWidth={2} />
              {[0, 1].map((end) => (
                <circle
                  key={end}
                  data-testid={`match-${way}-${i}-${end}`}
                  cx={end === 0 ? x1 : x2}
                  cy={end === 0 ? y1 : y2}
                  r={KNOB}
                  fill="rgba(23,23,23,0.75)"
                  strokeWidth={1.5}
                  {...drag(withEnd(way, i, end))}
                />
              ))}
            </g>
          );
        }),
      )}
      <circle
        data-testid="match-foot"
        cx={footX}
        cy={footY}
        r={KNOB + 4}
        fill="rgba(23,23,23,0.35)"
        stroke={BONE}
        strokeWidth={2}
        {...drag((x, y) => ({ foot: [x, y] }))}
      />
      <circle cx={footX} cy={footY} r={2} fill={BONE} />
    </svg>
  );
}
