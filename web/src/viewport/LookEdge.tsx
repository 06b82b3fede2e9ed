/** The edge between the picture before its look and after it, dragged across the picture. */
import Box from "@mui/material/Box";
import { type KeyboardEvent, memo, type PointerEvent } from "react";
import { useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";

interface Props {
  number: PaneNumber;
  place: { left: number; top: number; width: number; height: number };
}

const STEP = 0.02;
const within = (share: number) => Math.min(Math.max(share, 0), 1);

export const LookEdge = memo(function LookEdge({ number, place }: Props) {
  const workspace = useWorkspace();
  const edge = useSlice((s) => s.panes[number]?.edge ?? null);
  if (edge === null) return null;
  const set = (share: number) => workspace.setPane(number, { edge: within(share) });
  const drag = (event: PointerEvent<HTMLElement>) => {
    const handle = event.currentTarget;
    const from = event.clientX;
    handle.setPointerCapture(event.pointerId);
    const move = (moved: globalThis.PointerEvent) => set(edge + (moved.clientX - from) / place.width);
    handle.addEventListener("pointermove", move);
    const end = () => handle.removeEventListener("pointermove", move);
    handle.addEventListener("pointerup", end, { once: true });
    handle.addEventListener("pointercancel", end, { once: true });
  };
  const keyed = (event: KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    set(edge + way * STEP);
  };
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label="Edge between before and after the look"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(edge * 100)}
      data-testid="look-edge"
      onPointerDown={drag}
      onKeyDown={keyed}
      sx={{
        position: "absolute",
        width: 17,
        cursor: "ew-resize",
        touchAction: "none",
        "&::after": {
          content: '""',
          position: "absolute",
          left: 8,
          top: 0,
          bottom: 0,
          width: "1px",
          bgcolor: "rgba(236,234,228,0.9)",
        },
      }}
      style={{ left: place.left + edge * place.width - 8.5, top: place.top, height: place.height }}
    >
      <Box
        sx={{
          position: "absolute",
          bottom: 10,
          right: 22,
          fontSize: 11,
          color: "#ece9e2",
          textShadow: "0 0 4px #000",
        }}
      >
        before
      </Box>
      <Box
        sx={{
          position: "absolute",
          bottom: 10,
          left: 22,
          fontSize: 11,
          color: "#ece9e2",
          textShadow: "0 0 4px #000",
        }}
      >
        after
      </Box>
    </Box>
  );
});
