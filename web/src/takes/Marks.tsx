/** What is drawn on a take, and drawing more: an arrow, a ring around something, words at a point. */
import Box from "@mui/material/Box";
import { type PointerEvent, useState } from "react";
import type { CommentEntry, Mark } from "../api/types";

export type Pen = Mark["kind"] | null;
const INK = "#ff8a5c";
/** Shares of the picture below which a stroke is a slip of the hand. */
const SLIP = 0.01;

interface Props {
  marks: readonly Mark[];
  /** Comments that point at a place. */
  pins: readonly CommentEntry[];
  pen: Pen;
  /** Width over height of the picture. */
  shape: number;
  onDraw: (mark: Mark) => void;
}

export function Marks({ marks, pins, pen, shape, onDraw }: Props) {
  const [stroke, setStroke] = useState<Mark | null>(null);
  /** Where the hand is, in shares of the picture, which the marks lie over as large as it is shown. */
  const at = (event: PointerEvent): [number, number] => {
    const place = new DOMPoint(event.clientX, event.clientY).matrixTransform(
      (event.currentTarget as SVGSVGElement).getScreenCTM()?.inverse(),
    );
    const share = (value: number) => Math.min(1, Math.max(0, value));
    return [share(place.x / shape), share(place.y)];
  };
  const begin = (event: PointerEvent) => {
    if (!pen || event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const start = at(event);
    setStroke({ kind: pen, start, end: start, words: "" });
  };
  const end = () => {
    if (!stroke) return;
    setStroke(null);
    if (stroke.kind === "words") {
      const words = prompt("Words at this point")?.trim().slice(0, 200);
      if (words) onDraw({ ...stroke, words });
    } else if (Math.hypot(stroke.end[0] - stroke.start[0], stroke.end[1] - stroke.start[1]) > SLIP)
      onDraw(stroke);
  };
  return (
    <Box
      component="svg"
      aria-label="Marks on the take"
      role="img"
      viewBox={`0 0 ${shape} 1`}
      onPointerDown={begin}
      onPointerMove={(event: PointerEvent) => stroke && setStroke({ ...stroke, end: at(event) })}
      onPointerUp={end}
      sx={{
        position: "absolute",
        inset: 0,
        width: "100%",
        height: "100%",
        cursor: pen ? "crosshair" : "default",
        touchAction: "none",
      }}
    >
      <rect data-testid="marks" width={shape} height={1} fill="none" />
      {marks.map((mark) => (
        <Drawn key={keyOf(mark)} mark={mark} shape={shape} />
      ))}
      {pins.map(
        ({ id, author, text, pin }) =>
          pin && (
            <circle
              key={id}
              cx={pin[0] * shape}
              cy={pin[1]}
              r={0.011}
              fill={INK}
              stroke="#fff"
              strokeWidth={0.004}
            >
              <title>{`${author}: ${text}`}</title>
            </circle>
          ),
      )}
      {stroke && <Drawn mark={stroke} shape={shape} />}
    </Box>
  );
}

const keyOf = (mark: Mark) => [mark.kind, ...mark.start, ...mark.end, mark.words].join();

function Drawn({ mark, shape }: { mark: Mark; shape: number }) {
  const [x0, y0, x1, y1] = [mark.start[0] * shape, mark.start[1], mark.end[0] * shape, mark.end[1]];
  const line = { stroke: INK, strokeWidth: 0.006, fill: "none", strokeLinecap: "round" as const };
  if (mark.kind === "ring")
    return (
      <ellipse
        cx={(x0 + x1) / 2}
        cy={(y0 + y1) / 2}
        rx={Math.abs(x1 - x0) / 2}
        ry={Math.abs(y1 - y0) / 2}
        {...line}
      />
    );
  if (mark.kind === "words")
    return (
      <text
        x={x0}
        y={y0}
        fill={INK}
        fontSize={0.04}
        style={{ paintOrder: "stroke" }}
        stroke="#171717"
        strokeWidth={0.006}
      >
        {mark.words}
      </text>
    );
  return <path d={arrow(x0, y0, x1, y1)} {...line} />;
}

/** A line with two short ones back from its end. */
export function arrow(x0: number, y0: number, x1: number, y1: number, head = 0.035): string {
  const length = Math.hypot(x1 - x0, y1 - y0) || 1;
  const [ax, ay] = [(x0 - x1) / length, (y0 - y1) / length];
  const tip = (side: number) =>
    `M${x1} ${y1}L${x1 + head * (ax - side * ay)} ${y1 + head * (ay + side * ax)}`;
  return `M${x0} ${y0}L${x1} ${y1}${tip(0.5)}${tip(-0.5)}`;
}
