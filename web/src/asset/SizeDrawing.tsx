/** The asset as a box beside a hand or a door, to scale: whether it has the size that it should have is seen at once. */
import Box from "@mui/material/Box";
import type { Extents } from "./useExtents";

interface Thing {
  name: string;
  /** Metres. */
  width: number;
  height: number;
  /** In shares of width and height, y down. */
  outline: string;
}

const HAND: Thing = {
  name: "a hand",
  width: 0.1,
  height: 0.19,
  outline:
    "M.2 1 L.2 .62 L0 .5 Q.02 .4 .12 .42 L.26 .52 L.24 .14 Q.3 .08 .36 .14 L.4 .42 L.43 .05 Q.5 -.02 .56 .05 L.58 .42 " +
    "L.64 .1 Q.71 .04 .76 .12 L.74 .46 L.84 .24 Q.92 .2 .96 .28 L.86 .66 L.8 1 Z",
};
const DOOR: Thing = {
  name: "a door",
  width: 0.9,
  height: 2.05,
  outline: "M0 1 L0 0 L1 0 L1 1 Z M.1 .94 L.1 .06 L.9 .06 L.9 .94 Z M.78 .54 L.86 .54 L.86 .5 L.78 .5 Z",
};

/** Beyond this many metres a hand says nothing. */
const OF_A_HAND = 0.6;
const [WIDTH, HEIGHT, GAP] = [280, 96, 14];

export function SizeDrawing({ extents: [x, y, z] }: { extents: Extents }) {
  const thing = Math.max(x, y, z) > OF_A_HAND ? DOOR : HAND;
  const wide = Math.max(x, z);
  const scale = Math.min(HEIGHT / Math.max(y, thing.height), (WIDTH - GAP) / (wide + thing.width));
  const [w, h] = [Math.max(wide * scale, 1), Math.max(y * scale, 1)];
  const [tw, th] = [thing.width * scale, thing.height * scale];
  const left = (WIDTH - w - tw - GAP) / 2;
  return (
    <Box
      component="svg"
      role="img"
      aria-label={`The asset beside ${thing.name}, to scale`}
      viewBox={`0 0 ${WIDTH} ${HEIGHT + 2}`}
      sx={{ width: "100%", display: "block", color: "text.secondary", mb: 1 }}
    >
      <line x1="0" x2={WIDTH} y1={HEIGHT + 1} y2={HEIGHT + 1} stroke="currentColor" strokeOpacity="0.5" />
      <Box
        component="rect"
        x={left}
        y={HEIGHT - h}
        width={w}
        height={h}
        rx="1"
        sx={{ fill: "rgba(185,120,171,0.28)", stroke: "primary.main", color: "primary.main" }}
        stroke="currentColor"
      />
      <path
        d={thing.outline}
        transform={`translate(${left + w + GAP} ${HEIGHT - th}) scale(${tw} ${th})`}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.2"
        vectorEffect="non-scaling-stroke"
      />
    </Box>
  );
}
