/** A light distribution in small. */
import Box from "@mui/material/Box";

/** Even to all sides. */
export const ROUND = [...Array(49).keys()].map((i): [number, number] => [
  Math.sin((i / 24) * Math.PI),
  Math.cos((i / 24) * Math.PI),
]);

export const lumens = (value: number) => `${Math.round(value).toLocaleString("en")} lm`;

/** A distribution seen from the side, the lamp in the middle and its axis down. */
export function Curve({ points, size = 40 }: { points: [number, number][]; size?: number }) {
  return (
    <Box
      component="svg"
      viewBox="-1.1 -1.1 2.2 2.2"
      aria-hidden
      sx={{ width: size, height: size, flexShrink: 0, borderRadius: 1, bgcolor: "background.default" }}
    >
      <polygon
        points={points.map((point) => point.join(",")).join(" ")}
        fill="currentColor"
        fillOpacity={0.25}
        stroke="currentColor"
        strokeWidth={0.05}
      />
      <circle r={0.07} fill="currentColor" />
    </Box>
  );
}
