/**
 * A frame over the picture that lies on a surface: dragged over it by its inside, sized by its corners, turned by its
 * knob. What that does is up to whoever draws it: a decal, or the placement of a pattern.
 */
import { useRef } from "react";
import type { Operation } from "../api/types";
import type { Frame } from "../socket/frame";
import { useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { cornersOf, type FrameInScene, polar, within } from "./decalFrame";
import type { Place } from "./layout";
import { projection } from "./projection";
import { add, scale, type Vector } from "./vectors";

const [AMBER, PLUM] = ["#e9a63f", "#d9a3cd"];
const KNOB_PIXELS = 26;
const LEAST_PIXELS = 6;
const SNAP_DEGREES = 15;
/** In the order of `cornersOf`. */
const CORNERS = ["lower-left", "lower-right", "upper-right", "upper-left"] as const;

type What = "move" | "size" | "turn";

interface Props {
  place: Place;
  frame: Frame;
  /** Where it stands. */
  stands: FrameInScene;
  /** What it is of, and what moving, sizing and turning that is called. */
  name: string;
  labels: Record<What, string>;
  /** Begins a test id. */
  id: string;
  /** The patch that brings it to where the surface is at shares of the picture; null where it cannot lie. */
  onMove: (x: number, y: number) => Promise<Operation[] | null>;
  /** The patches that make it so many times as large, or turn it by degrees, from what it was when the hand took hold. */
  onSize: (by: number) => Operation[];
  onTurn: (by: number) => Operation[];
  onLetGo?: () => void;
}

interface Hold {
  what: What;
  gesture: Gesture;
  /** Where the hand took hold, from the middle. */
  from: { angle: number; distance: number };
  size: Props["onSize"];
  turn: Props["onTurn"];
  /** Where the middle was pressed beside itself, shares of the picture. */
  beside: { x: number; y: number };
  /** A question is on its way; where the hand is by now. */
  waiting: boolean;
  next: { x: number; y: number } | null;
  ends: boolean;
}

export function FrameHandles({ place, frame, stands, name, labels, id, ...does }: Props) {
  const workspace = useWorkspace();
  const hold = useRef<Hold | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const lens = projection(frame.camera, frame.full.width / frame.full.height);
  const at = (point: Vector): [number, number] => {
    const { x, y } = lens.project(point);
    return [x * place.width, y * place.height];
  };
  const corners = cornersOf(stands);
  if ([...corners, stands.middle].some((point) => lens.project(point).depth <= 0)) return null;
  const points = corners.map(at);
  const middle = at(stands.middle);
  const top = at(add(stands.middle, stands.up));
  const away = Math.max(Math.hypot(top[0] - middle[0], top[1] - middle[1]), LEAST_PIXELS);
  const knob = at(add(stands.middle, scale(stands.up, 1 + KNOB_PIXELS / away)));

  const pressed = (event: React.PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const letGo = (held: Hold) => {
    held.gesture.commit();
    does.onLetGo?.();
  };
  /** Ask where the surface is under the hand; while the answer is on its way the hand may be elsewhere already. */
  const follow = async (held: Hold) => {
    if (held.waiting || !held.next) return;
    const { x, y } = held.next;
    held.next = null;
    held.waiting = true;
    const patch = await does.onMove(x, y);
    held.waiting = false;
    if (patch) held.gesture.preview(patch);
    if (held.next) await follow(held);
    else if (held.ends) letGo(held);
  };

  const grip = (what: What) => ({
    onPointerDown: (event: React.PointerEvent) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      const [x, y] = pressed(event);
      hold.current = {
        what,
        gesture: workspace.begin(labels[what]),
        from: polar(middle, x, y),
        size: does.onSize,
        turn: does.onTurn,
        beside: { x: (middle[0] - x) / place.width, y: (middle[1] - y) / place.height },
        waiting: false,
        next: null,
        ends: false,
      };
    },
    onPointerMove: (event: React.PointerEvent) => {
      const held = hold.current;
      if (!held) return;
      const [x, y] = pressed(event);
      if (held.what === "move") {
        held.next = { x: x / place.width + held.beside.x, y: y / place.height + held.beside.y };
        follow(held);
        return;
      }
      const { angle, distance } = polar(middle, x, y);
      if (held.what === "size") {
        held.gesture.preview(held.size(distance / Math.max(held.from.distance, LEAST_PIXELS)));
        return;
      }
      const by = within(angle - held.from.angle);
      held.gesture.preview(held.turn(event.ctrlKey ? Math.round(by / SNAP_DEGREES) * SNAP_DEGREES : by));
    },
    onPointerUp: () => {
      const held = hold.current;
      hold.current = null;
      if (!held) return;
      if (held.waiting || held.next) held.ends = true;
      else letGo(held);
    },
    onPointerCancel: () => {
      hold.current?.gesture.cancel();
      hold.current = null;
    },
  });
  const style = (cursor: string) => ({ cursor, pointerEvents: "auto" as const, touchAction: "none" });
  return (
    <svg
      ref={svg}
      data-testid={id}
      aria-label={`Frame of ${name}`}
      style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}
    >
      <title>{`${name}: drag it over the surface, its corners size it, its knob turns it (Ctrl by 15°)`}</title>
      <polygon
        points={points.map((point) => point.map((v) => v.toFixed(1)).join(",")).join(" ")}
        fill="rgba(233,166,63,0.05)"
        stroke={AMBER}
        strokeWidth={1.5}
        data-testid={`${id}-move`}
        {...grip("move")}
        style={style("move")}
      />
      <line x1={top[0]} y1={top[1]} x2={knob[0]} y2={knob[1]} stroke={AMBER} strokeWidth={1.5} />
      <circle
        cx={knob[0]}
        cy={knob[1]}
        r={7}
        fill={PLUM}
        data-testid={`${id}-turn`}
        {...grip("turn")}
        style={style("grab")}
      />
      {CORNERS.map((corner, i) => (
        <circle
          key={corner}
          cx={points[i]![0]}
          cy={points[i]![1]}
          r={6}
          fill={AMBER}
          data-testid={`${id}-${corner}`}
          {...grip("size")}
          style={style("nwse-resize")}
        />
      ))}
    </svg>
  );
}
