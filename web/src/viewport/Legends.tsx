/** What the colours of a way of looking mean. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { memo } from "react";
import type { Way } from "../socket/panes";
import { useSlice, useWorkspace } from "../store/context";
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

/** What a way of looking shows in false colours, if it does. */
const measureOf = (way: Way | undefined) => (way === "luminance" || way === "illuminance" ? way : null);

/** 0.01, 1, 1000: as a person writes it. */
const written = (value: number) =>
  value >= 1e4 || value < 1e-3 ? value.toExponential(0) : String(Number(value.toPrecision(2)));

export const LightLegend = memo(function LightLegend({ number }: { number: PaneNumber }) {
  const workspace = useWorkspace();
  const measure = useSlice((s) => measureOf(s.panes[number]?.way));
  const told = useSlice((s) => s.panes[number]?.ticks ?? null);
  const isolines = useSlice((s) => s.panes[number]?.isolines ?? false);
  if (!measure || !told) return null;
  const { unit, ticks } = told;
  return (
    <Box sx={PANEL} data-testid={`${measure}-scale`} aria-label={`Scale of ${measure}`}>
      <Typography variant="caption" color="textSecondary">
        {unit}
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
      <Tooltip describeChild title="Lines of equal light at 1, 2 and 5 of every decade">
        <ToggleButton
          value="isolines"
          size="small"
          selected={isolines}
          onChange={() => workspace.setPane(number, { isolines: !isolines })}
          sx={{ mt: 0.75, px: 0.75, py: 0.1, fontSize: 11, width: "100%" }}
        >
          Lines
        </ToggleButton>
      </Tooltip>
    </Box>
  );
});

export const MeshLegend = memo(function MeshLegend({ number }: { number: PaneNumber }) {
  const wire = useSlice((s) => s.panes[number]?.wire ?? false);
  const measure = useSlice((s) => measureOf(s.panes[number]?.way));
  if (!wire || measure) return null;
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
