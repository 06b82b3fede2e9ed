/** Handles over the picture, drawn with the camera of that picture: move, turn and scale parts and lights. */
import Box from "@mui/material/Box";
import { useEffect, useMemo, useRef, useState } from "react";
import { evaluate } from "../controls/arithmetic";
import type { Frame } from "../socket/frame";
import { useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import type { PaneNumber } from "../store/panes";
import {
  AXES,
  type Axis,
  type Change,
  describe,
  dragged,
  LETTERS,
  movedLight,
  movedPoint,
  sizeOf,
  snap,
  typedChange,
} from "./handles";
import type { Place } from "./layout";
import { movedParts } from "./placing";
import { projection, type Ray } from "./projection";
import { add, cross, normalize, scale, type Vector } from "./vectors";

/** Plum, bone and teal: told apart from one another and, by their letters, without colour. */
const COLORS = ["#d9a3cd", "#f2ece3", "#7cc9b8"];
const REACH_PIXELS = 76;
const RING_STEPS = 48;

interface Subject {
  pivot: Vector;
  size: number;
  patch: (change: Change) => ReturnType<typeof movedParts>;
}

interface Hold {
  axis: Axis | null;
  from: Ray;
  typed: string;
  change: Change | null;
  gesture: Gesture | null;
  fine: boolean;
}

/** What the handles are about: the selected parts, or the chosen light. */
function useSubject(): Subject | null {
  const workspace = useWorkspace();
  const selected = useSlice((s) => s.selection);
  const light = useSlice((s) => (s.light !== null ? (s.committed.lights[s.light] ?? null) : null));
  const key = useSlice((s) => s.light);
  const parts = useSlice((s) => s.committed.parts);
  const part_groups = useSlice((s) => s.committed.part_groups);
  const asset = useSlice((s) => s.committed.asset);
  const stood = useMemo(() => ({ parts, part_groups, asset }), [parts, part_groups, asset]);
  // What is strewn lies where its surface is: there is nothing of it to take hold of.
  const selection = useMemo(() => selected.filter((key) => !parts[key]?.strewn), [selected, parts]);
  const [box, setBox] = useState<[number[], number[]] | null>(null);
  // The host knows where the parts are; it is asked again whenever they may have moved.
  useEffect(() => {
    let current = true;
    if (selection.length === 0) setBox(null);
    else
      workspace
        .bounds(selection.filter((part) => part in stood.parts))
        .then((found) => current && setBox(found));
    return () => {
      current = false;
    };
  }, [workspace, selection, stood]);
  if (selection.length > 0 && box) {
    const [low, high] = box;
    const pivot = low.map((v, i) => (v + high[i]!) / 2) as Vector;
    const size = Math.hypot(...low.map((v, i) => high[i]! - v));
    return { pivot, size, patch: (change) => movedParts(change, pivot, stood, selection) };
  }
  if (light && key !== null) {
    const pivot = light.position as Vector;
    return {
      pivot,
      size: sizeOf(light),
      patch: (change) => movedLight(change, key, light),
    };
  }
  return null;
}

interface Props {
  number: PaneNumber;
  place: Place;
  frame: Frame;
}

export function Handles({ number, place, frame }: Props) {
  const workspace = useWorkspace();
  const kind = useSlice((s) => s.handle);
  const subject = useSubject();
  const hold = useRef<Hold | null>(null);
  const [change, setChange] = useState<Change | null>(null);
  const [typed, setTyped] = useState("");
  const svg = useRef<SVGSVGElement>(null);
  const end = (commit: boolean) => {
    const held = hold.current;
    hold.current = null;
    delete document.body.dataset.typing;
    setChange(null);
    setTyped("");
    if (commit && held?.change) held.gesture?.commit(describe(held.change));
    else held?.gesture?.cancel();
  };
  const finish = useRef(end);
  finish.current = end;
  const applied = useRef<(next: Change) => void>(() => {});
  applied.current = (next) => {
    if (!hold.current || !subject) return;
    hold.current.change = next;
    hold.current.gesture ??= workspace.begin(describe(next));
    setChange(next);
    hold.current.gesture.preview(subject.patch(next));
  };

  // While a handle is in hand, digits are an amount, Enter takes it, Escape lets go.
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const held = hold.current;
      if (!held) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.key === "Escape") finish.current(false);
      else if (event.key === "Enter") finish.current(true);
      else {
        if (event.key === "Backspace") held.typed = held.typed.slice(0, -1);
        else if (/^[\d.,+\-*/() ]$/.test(event.key)) held.typed += event.key;
        setTyped(held.typed);
        const amount = held.typed ? evaluate(held.typed) : null;
        if (amount !== null && held.change) applied.current(typedChange(held.change, amount));
      }
    };
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, []);

  if (!kind || !subject) return null;
  const lens = projection(frame.camera, frame.full.width / frame.full.height);
  const pivot = change ? movedPoint(change, subject.pivot, subject.pivot) : subject.pivot;
  const centre = lens.project(pivot);
  if (centre.depth <= 0) return null;
  const reach = (lens.widthAt(centre.depth) * REACH_PIXELS) / place.width;
  const at = (point: Vector): [number, number] => {
    const { x, y } = lens.project(point);
    return [x * place.width, y * place.height];
  };

  const rayOf = (event: React.PointerEvent): Ray => {
    const box = svg.current!.getBoundingClientRect();
    return lens.ray((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  };
  const grip = (axis: Axis | null) => ({
    onPointerDown: (event: React.PointerEvent) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      hold.current = { axis, from: rayOf(event), typed: "", change: null, gesture: null, fine: false };
      document.body.dataset.typing = "handle";
    },
    onPointerMove: (event: React.PointerEvent) => {
      const held = hold.current;
      if (!held || held.typed) return;
      const found = dragged(kind, held.axis, subject.pivot, lens.backwards, held.from, rayOf(event));
      if (found) applied.current(event.ctrlKey ? snap(found, subject.size) : found);
    },
    onPointerUp: () => hold.current && end(true),
    onPointerCancel: () => hold.current && end(false),
    style: { cursor: "pointer", pointerEvents: "auto" as const, touchAction: "none" },
  });
  const [cx, cy] = at(pivot);
  return (
    <>
      <svg
        ref={svg}
        data-testid={`handles-${number}`}
        aria-label={`Handles to ${kind}`}
        style={{ position: "absolute", ...place, overflow: "visible", pointerEvents: "none" }}
      >
        <title>{`Handles to ${kind}; Ctrl snaps, digits type the amount`}</title>
        {AXES.map((axis, i) => {
          const color = COLORS[i]!;
          const name = `${kind} ${LETTERS[i]}`;
          if (kind === "turn")
            return (
              <g key={name}>
                <path
                  d={ring(axis, pivot, reach, at)}
                  fill="none"
                  stroke={color}
                  strokeWidth={4}
                  strokeOpacity={0.9}
                />
                <path
                  d={ring(axis, pivot, reach, at)}
                  fill="none"
                  stroke="transparent"
                  strokeWidth={16}
                  strokeLinejoin="bevel"
                  data-testid={`handle-${LETTERS[i]}`}
                  {...grip(i as Axis)}
                  style={{ ...grip(i as Axis).style, pointerEvents: "stroke" }}
                />
                <RingLetter axis={axis} pivot={pivot} radius={reach} at={at} color={color}>
                  {LETTERS[i]!}
                </RingLetter>
              </g>
            );
          const [tx, ty] = at(add(pivot, scale(axis, reach)));
          return (
            <g key={name} data-testid={`handle-${LETTERS[i]}`} {...grip(i as Axis)}>
              <line x1={cx} y1={cy} x2={tx} y2={ty} stroke={color} strokeWidth={3} />
              <line x1={cx} y1={cy} x2={tx} y2={ty} stroke="transparent" strokeWidth={14} />
              {kind === "move" ? (
                <circle cx={tx} cy={ty} r={9} fill={color} />
              ) : (
                <rect x={tx - 8} y={ty - 8} width={16} height={16} rx={2} fill={color} />
              )}
              <Letter x={tx} y={ty}>
                {LETTERS[i]!}
              </Letter>
            </g>
          );
        })}
        {kind !== "turn" && (
          <circle
            cx={cx}
            cy={cy}
            r={9}
            fill="rgba(242,236,227,0.85)"
            data-testid="handle-all"
            {...grip(null)}
          />
        )}
      </svg>
      {change && (
        <Box
          data-testid="handle-amount"
          sx={{
            position: "absolute",
            left: place.left + cx + 16,
            top: place.top + cy + 12,
            px: 1,
            py: 0.25,
            borderRadius: 1,
            bgcolor: "rgba(23,23,23,0.88)",
            fontSize: 12,
            pointerEvents: "none",
            whiteSpace: "nowrap",
          }}
        >
          {describe(change)}
          {typed && ` · typed ${typed}`}
        </Box>
      )}
    </>
  );
}

function Letter({ x, y, children }: { x: number; y: number; children: string }) {
  return (
    <text
      x={x}
      y={y}
      textAnchor="middle"
      dominantBaseline="central"
      fontSize={11}
      fontWeight={700}
      fill="#1b141a"
      style={{ pointerEvents: "none", userSelect: "none" }}
    >
      {children}
    </text>
  );
}

type ToPicture = (point: Vector) => [number, number];

/** A point of the circle about an axis, at a share of its round. */
function onRing(axis: Vector, pivot: Vector, radius: number, share: number): Vector {
  const aside = normalize(cross(axis, Math.abs(axis[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0]));
  const other = cross(axis, aside);
  const t = share * 2 * Math.PI;
  return add(pivot, add(scale(aside, radius * Math.cos(t)), scale(other, radius * Math.sin(t))));
}

/** A circle about an axis as the picture shows it. */
function ring(axis: Vector, pivot: Vector, radius: number, at: ToPicture): string {
  const points = Array.from({ length: RING_STEPS }, (_, i) =>
    at(onRing(axis, pivot, radius, i / RING_STEPS))
      .map((v) => v.toFixed(1))
      .join(" "),
  );
  return `M${points.join("L")}Z`;
}

interface RingLetterProps {
  axis: Vector;
  pivot: Vector;
  radius: number;
  at: ToPicture;
  color: string;
  children: string;
}

function RingLetter({ axis, pivot, radius, at, color, children }: RingLetterProps) {
  const [x, y] = at(onRing(axis, pivot, radius, 0.12));
  return (
    <>
      <circle cx={x} cy={y} r={8} fill={color} style={{ pointerEvents: "none" }} />
      <Letter x={x} y={y}>
        {children}
      </Letter>
    </>
  );
}
