/** At the stop Light: the box that haze is held in, its sides dragged by hand. */
import { useRef } from "react";
import type { Frame } from "../socket/frame";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { replace } from "../store/patch";
import { draggedBox, edgesOf, type HazeBox, middleOf, SIDES, type Side } from "./hazeBox";
import type { Place } from "./layout";
import { pathOf, projection } from "./projection";

const TEAL = "#7cc9b8";
const NAMES = [
  ["left", "right"],
  ["lower", "upper"],
  ["far", "near"],
] as const;

export function HazeFrame({ place, frame }: { place: Place; frame: Frame }) {
  const workspace = useWorkspace();
  const isShown = useSlice((s) => s.stop === "light");
  const box = useScene((s) => (s.haze.enabled ? (s.haze.box ?? null) : null)) as HazeBox | null;
  const held = useRef<{ gesture: Gesture; side: Side } | null>(null);
  if (!isShown || !box) return null;
  const lens = projection(frame.camera, frame.full.width / frame.full.height);
  const letGo = () => {
    held.current?.gesture.commit();
    held.current = null;
  };
  return (
    <svg
      data-testid="haze-box"
      aria-hidden
      style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}
    >
      <path
        d={edgesOf(box)
          .map((points) => pathOf(points, lens, place))
          .join("")}
        fill="none"
        stroke={TEAL}
        strokeOpacity={0.7}
      />
      {SIDES.map((side) => {
        const { x, y, depth } = lens.project(middleOf(box, side));
        const name = NAMES[side.axis]![side.end === "low" ? 0 : 1];
        return (
          depth > 0 && (
            <rect
              key={name}
              data-testid={`haze-${name}`}
              x={x * place.width - 6}
              y={y * place.height - 6}
              width={12}
              height={12}
              rx={2}
              fill="rgba(23,23,23,0.8)"
              stroke={TEAL}
              strokeWidth={1.5}
              style={{ pointerEvents: "auto", cursor: "grab" }}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                held.current = { gesture: workspace.begin("Box of the haze"), side };
              }}
              onPointerMove={(event) => {
                const corner = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
                if (!held.current || !corner) return;
                const ray = lens.ray(
                  (event.clientX - corner.left) / place.width,
                  (event.clientY - corner.top) / place.height,
                );
                held.current.gesture.preview([replace("/haze/box", draggedBox(box, held.current.side, ray))]);
              }}
              onPointerUp={letGo}
              onPointerCancel={letGo}
            >
              <title>{`Drag the ${name} side`}</title>
            </rect>
          )
        );
      })}
    </svg>
  );
}
