/** At the stop Light, with a sun by place and time: its way over the day, where the picture shows that part of the sky. */
import { useEffect, useState } from "react";
import type { Frame } from "../socket/frame";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import type { Place } from "./layout";
import { projection } from "./projection";
import { add, scale, type Vector } from "./vectors";

/** Sizes of the camera's distance at which the sky is drawn: as good as infinitely far. */
const FAR = 1e5;
const AMBER = "#e9a63f";

type Day = [number, Vector][];

export function SunArc({ place, frame }: { place: Place; frame: Frame }) {
  const workspace = useWorkspace();
  const isShown = useSlice((s) => s.stop === "light");
  const sky = useScene((s) => (s.sky.enabled && s.sky.place ? s.sky : null));
  const sunPlace = sky?.place ?? null;
  const [day, setDay] = useState<Day>([]);
  // The way is that of the day and the place: the hour moves along it.
  const of = sunPlace && JSON.stringify({ ...sunPlace, hour: 0, name: "" });
  useEffect(() => {
    if (!isShown || of === null) return;
    workspace.askLight<{ day: Day }>("sun_day", SHOT).then((answer) => setDay(answer?.day ?? []));
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
      {now && <circle cx={now.x} cy={now.y} r={7} fill="none" stroke={AMBER} strokeWidth={2} />}
    </svg>
  );
}
