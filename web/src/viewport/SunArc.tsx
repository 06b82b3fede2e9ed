/** At the stop Light, with a sun by place and time: its way over the day, where the picture shows that part of the sky. */
import { useEffect, useRef, useState } from "react";
import type { Frame } from "../socket/frame";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { SHOT } from "../store/panes";
import { replace } from "../store/patch";
import type { Place } from "./layout";
import { projection } from "./projection";
import { add, scale, type Vector } from "./vectors";

/** Sizes of the camera's distance at which the sky is drawn: as good as infinitely far. */
const FAR = 1e5;
const AMBER = "#e9a63f";

type Day = [number, Vector][];

export interface ArcPoint {
  hour: number;
  x: number;
  y: number;
}

/** The hour whose place on the way is nearest to a point, between the marks as well. */
export function hourAt(points: readonly ArcPoint[], x: number, y: number): number {
  let [best, nearest] = [points[0]?.hour ?? 0, Number.POSITIVE_INFINITY];
  for (let i = 0; i + 1 < points.length; i++) {
    const [a, b] = [points[i]!, points[i + 1]!];
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const along = ((x - a.x) * dx + (y - a.y) * dy) / Math.max(dx * dx + dy * dy, 1e-9);
    const t = Math.min(Math.max(along, 0), 1);
    const away = Math.hypot(a.x + dx * t - x, a.y + dy * t - y);
    if (away < nearest) [best, nearest] = [a.hour + (b.hour - a.hour) * t, away];
  }
  return Number(best.toFixed(3));
}

export function SunArc({ place, frame }: { place: Place; frame: Frame }) {
  const workspace = useWorkspace();
  const isShown = useSlice((s) => s.stop === "light");
  const sky = useScene((s) => (s.sky.enabled && s.sky.place ? s.sky : null));
  const sunPlace = sky?.place ?? null;
  const [day, setDay] = useState<Day>([]);
  const held = useRef<Gesture | null>(null);
  // The way is that of the day and the place: the hour moves along it.
  const of = sunPlace && JSON.stringify({ ...sunPlace, hour: 0, name: "" });
  useEffect(() => {
    if (!isShown || of === null) return;
    workspace.askHost<{ day: Day }>("sun_day", SHOT).then((answer) => setDay(answer?.day ?? []));
  }, [workspace, isShown, of]);
  if (!isShown || !sunPlace || day.length === 0) return null;

  const lens = projection(frame.camera, frame.full.width / frame.full.height);
  const eye = frame.camera.position as Vector;
  const seen = day.filter(([, direction]) => direction[1] > 0);
  const points = seen.flatMap(([hour, direction]) => {
    const { x, y, depth } = lens.project(add(eye, scale(direction, FAR)));
    return depth > 0 ? [{ hour, x: x * place.width, y: y * place.height }] : [];
  });
  const now = points.reduce<(typeof points)[number] | null>(
    (best, point) =>
      !best || Math.abs(point.hour - sunPlace.hour!) < Math.abs(best.hour - sunPlace.hour!) ? point : best,
    null,
  );
  const letGo = () => {
    held.current?.commit();
    held.current = null;
  };
  return (
    <svg
      aria-hidden
      data-testid="sun-arc"
      style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}
    >
      <polyline
        points={points.map(({ x, y }) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" ")}
        fill="none"
        stroke={AMBER}
        strokeOpacity={0.8}
        strokeDasharray="5 4"
      />
      {points
        .filter(({ hour }) => hour % 1 === 0)
        .map(({ hour, x, y }) => (
          <circle key={hour} cx={x} cy={y} r={2.5} fill={AMBER} />
        ))}
      {now && (
        <circle
          cx={now.x}
          cy={now.y}
          r={7}
          fill={AMBER}
          fillOpacity={0.25}
          stroke={AMBER}
          strokeWidth={2}
          data-testid="sun-on-arc"
          style={{ pointerEvents: "auto", cursor: "grab" }}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            held.current = workspace.begin("Hour");
          }}
          onPointerMove={(event) => {
            const corner = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
            if (!held.current || !corner) return;
            const hour = hourAt(points, event.clientX - corner.left, event.clientY - corner.top);
            held.current.preview([replace("/sky/place/hour", hour)]);
          }}
          onPointerUp={letGo}
          onPointerCancel={letGo}
        />
      )}
    </svg>
  );
}
