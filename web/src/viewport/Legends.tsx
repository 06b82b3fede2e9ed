/** What the colours of a way of looking mean. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { memo } from "react";
import { useSlice } from "../store/context";
import type { PaneNumber } from "../store/panes";

const PANEL = {
  position: "absolute",
  right: 10,
  bottom: 12,
  px: 1,
  py: 0.75,
  borderRadius: 1.5,
  bgcolor: "rgba(31,31,31,0.86)",
} as const;

/** 0.01, 1, 1000: as a person writes it. */
const written = (value: number) =>
  value >= 1e4 || value < 1e-3 ? value.toExponential(0) : String(Number(value.toPrecision(2)));

export const LuminanceLegend = memo(function LuminanceLegend({ number }: { number: PaneNumber }) {
  const ticks = useSlice((s) => (s.panes[number]?.way === "luminance" ? s.panes[number].ticks : null));
  if (!ticks) return null;
  return (
    <Box sx={PANEL} data-testid="luminance-scale" aria-label="Scale of luminance">
      <Typography variant="caption" color="textSecondary">
        cd/m²
      </Typography>
      <Box sx={{ display: "flex", gap: 1, mt: 0.5 }}>
        <Box
          sx={{
            width: 12,
            height: 150,
            borderRadius: 0.5,
            background: `linear-gradient(to top, ${ticks.map(([, color]) => color).join(", ")})`,
          }}
        />
        <Box
          sx={{
            height: 150,
            display: "flex",
            flexDirection: "column-reverse",
            justifyContent: "space-between",
          }}
        >
          {ticks.map(([value]) => (
            <Typography key={value} variant="caption" sx={{ lineHeight: 1, fontSize: 10.5 }}>
              {written(value)}
            </Typography>
          ))}
        </Box>
      </Box>
    </Box>
  );
});

export const MeshLegend = memo(function MeshLegend({ number }: { number: PaneNumber }) {
  const wire = useSlice((s) => s.panes[number]?.wire ?? false);
  const luminance = useSlice((s) => s.panes[number]?.way === "luminance");
  if (!wire || luminance) return null;
  return (
    <Box sx={PANEL} data-testid="mesh-scale" aria-label="Density of the mesh">
      <Typography variant="caption" color="textSecondary">
        Pixels a triangle
      </Typography>
      <Box
        sx={{
          width: 132,
          height: 8,
          my: 0.5,
          borderRadius: 0.5,
          background: "linear-gradient(to right, #e13f95, #e6e4dc)",
        }}
      />
      <Box sx={{ display: "flex", justifyContent: "space-between" }}>
        {["1", "16", "256"].map((n) => (
          <Typography key={n} variant="caption" sx={{ lineHeight: 1, fontSize: 10.5 }}>
            {n}
          </Typography>
        ))}
      </Box>
    </Box>
  );
});
