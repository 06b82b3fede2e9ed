/** At the stop Look: the places that are unfolded there, moved, sized and turned in the picture. */
import { useRef } from "react";
import type { Look } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import type { Place } from "./layout";
import {
  type Ellipse,
  endOf,
  endsOf,
  type Gradient,
  type Point,
  startOf,
  withEnd,
  withGradientEnd,
  withStart,
} from "./masks";

type Local = Look["locals"][string];
const PLUM = "#d9a3cd";
const KNOB = 6;

export function MaskFrame({ place }: { place: Place }) {
  const isShown = useSlice((s) => s.stop === "look");
  const unfolded = useSlice((s) => s.unfolded);
  const places = useScene((s) => s.look.locals);
  if (!isShown) return null;
  const drawn = Object.entries(places).filter(
    ([key, one]) => one.enabled && unfolded[`place.${key}`] && one.mask.kind !== "parts",
  );
  if (drawn.length === 0) return null;
  return (
    <svg
      data-testid="masks"
      aria-hidden
      style={{ position: "absolute", ...place, overflow: "visible", pointerEvents: "none" }}
    >
      {drawn.map(([key, one]) => (
        <OneMask key={key} id={key} one={one} place={place} />
      ))}
    </svg>
  );
}

function OneMask({ id, one, place }: { id: string; one: Local; place: Place }) {
  const workspace = useWorkspace();
  const held = useRef<Gesture | null>(null);
  const mask = one.mask as Ellipse | Gradient;
  const letGo = () => {
    held.current?.commit();
    held.current = null;
  };
  const knob = (name: string, [x, y]: Point, moved: (to: Point) => Ellipse | Gradient, cursor: string) => (
    <circle
      key={name}
      data-testid={`mask-${name}`}
      cx={x}
      cy={y}
      r={KNOB}
      fill="rgba(23,23,23,0.8)"
      stroke={PLUM}
      strokeWidth={1.5}
      style={{ pointerEvents: "auto", cursor }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = workspace.begin(one.name);
      }}
      onPointerMove={(event) => {
        const corner = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
        if (!held.current || !corner) return;
        const to: Point = [event.clientX - corner.left, event.clientY - corner.top];
        held.current.preview([replace(pointer("look", "locals", id, "mask"), moved(to))]);
      }}
      onPointerUp={letGo}
      onPointerCancel={letGo}
    >
      <title>{`${one.name}: ${name}`}</title>
    </circle>
  );
  const start = startOf(mask, place);
  const middle = knob("middle", start, (to) => withStart(mask, to, place), "move");
  if (mask.kind === "gradient") {
    const end = endOf(mask, place);
    return (
      <g>
        <line x1={start[0]} y1={start[1]} x2={end[0]} y2={end[1]} stroke={PLUM} strokeDasharray="4 3" />
        {middle}
        {knob("end", end, (to) => withGradientEnd(mask, to, place), "grab")}
      </g>
    );
  }
  const { across, up } = endsOf(mask, place);
  return (
    <g>
      <ellipse
        cx={start[0]}
        cy={start[1]}
        rx={(mask.width / 200) * place.height}
        ry={(mask.height / 200) * place.height}
        transform={`rotate(${-mask.turn} ${start[0]} ${start[1]})`}
        fill="none"
        stroke={PLUM}
        strokeOpacity={0.8}
      />
      {middle}
      {knob("across", across, (to) => withEnd(mask, "across", to, place), "grab")}
      {knob("up", up, (to) => withEnd(mask, "up", to, place), "grab")}
    </g>
  );
}
