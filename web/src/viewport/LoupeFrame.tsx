/** The loupe over the picture: drag it to move, its corners to resize. */
import Box from "@mui/material/Box";
import { useRef, useState } from "react";
import type { Loupe } from "../socket/panes";
import type { Place } from "./layout";

const CORNERS = [
  ["left", "top"],
  ["right", "top"],
  ["left", "bottom"],
  ["right", "bottom"],
] as const;
const SIDES = { left: 0, top: 1, right: 2, bottom: 3 } as const;
const LEAST = 0.01;

type Grip = (typeof CORNERS)[number] | "whole";

/** The loupe after a drag of one of its grips by shares of the picture. */
export function adjusted(loupe: Loupe, grip: Grip, dx: number, dy: number): Loupe {
  const [left, top, right, bottom] = loupe;
  if (grip === "whole") {
    const x = Math.min(Math.max(dx, -left), 1 - right);
    const y = Math.min(Math.max(dy, -top), 1 - bottom);
    return [left + x, top + y, right + x, bottom + y];
  }
  const next: Loupe = [...loupe];
  for (const side of grip) {
    const at = SIDES[side];
    const across = side === "left" || side === "right";
    const opposite = loupe[(at + 2) % 4]!;
    const wanted = loupe[at]! + (across ? dx : dy);
    next[at] =
      at < 2
        ? Math.min(Math.max(wanted, 0), opposite - LEAST)
        : Math.max(Math.min(wanted, 1), opposite + LEAST);
  }
  return next;
}

interface Props {
  loupe: Loupe;
  place: Place;
  drawing: boolean;
  onChange: (loupe: Loupe) => void;
}

export function LoupeFrame({ loupe, place, drawing, onChange }: Props) {
  const [inHand, setInHand] = useState<Loupe | null>(null);
  const press = useRef<{ x: number; y: number; grip: Grip } | null>(null);
  const [left, top, right, bottom] = inHand ?? loupe;

  const changed = (event: React.PointerEvent) => {
    const from = press.current!;
    return adjusted(
      loupe,
      from.grip,
      (event.clientX - from.x) / place.width,
      (event.clientY - from.y) / place.height,
    );
  };
  const grip = (which: Grip) => ({
    onPointerDown: (event: React.PointerEvent) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      press.current = { x: event.clientX, y: event.clientY, grip: which };
    },
    onPointerMove: (event: React.PointerEvent) => {
      if (press.current) setInHand(changed(event));
    },
    onPointerUp: (event: React.PointerEvent) => {
      if (!press.current) return;
      const next = changed(event);
      press.current = null;
      setInHand(null);
      onChange(next);
    },
  });

  return (
    <Box
      data-testid="loupe"
      aria-label="Loupe: all computing goes here"
      {...grip("whole")}
      sx={{
        position: "absolute",
        left: place.left + left * place.width,
        top: place.top + top * place.height,
        width: (right - left) * place.width,
        height: (bottom - top) * place.height,
        outline: "1.5px solid",
        outlineColor: "secondary.main",
        cursor: "move",
        pointerEvents: drawing ? "none" : "auto",
        touchAction: "none",
      }}
    >
      {!drawing &&
        CORNERS.map(([x, y]) => (
          <Box
            key={x + y}
            data-testid={`loupe-${x}-${y}`}
            {...grip([x, y] as Grip)}
            sx={{
              position: "absolute",
              [x]: -6,
              [y]: -6,
              width: 12,
              height: 12,
              borderRadius: 1,
              bgcolor: "secondary.main",
              cursor: (x === "left") === (y === "top") ? "nwse-resize" : "nesw-resize",
            }}
          />
        ))}
    </Box>
  );
}
