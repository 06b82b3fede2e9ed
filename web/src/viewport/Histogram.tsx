/** How often each brightness is in a pane's picture, by channel; a mark at an end says how much has gone beyond it. */
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import { memo, useEffect, useState } from "react";
import { useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";

interface Found {
  channels: number[][] | null;
  crushed: number[] | null;
  clipped: number[] | null;
}

const [WIDTH, HEIGHT] = [192, 56];
const COLORS = ["#d9695f", "#7fae72", "#6d8fd0"];
const NAMES = ["red", "green", "blue"];
/** Share of the pixels beyond an end from which its mark is lit. */
const WORTH_SAYING = 0.0005;
const REST_MS = 250;

/** A line over the bins; heights by the root, so that what is rare is still seen. */
function curve(channel: number[], highest: number): string {
  const points = channel.map((share, bin) => {
    const x = (bin / (channel.length - 1)) * WIDTH;
    return `${x.toFixed(1)},${(HEIGHT * (1 - Math.sqrt(share / highest))).toFixed(1)}`;
  });
  return `0,${HEIGHT} ${points.join(" ")} ${WIDTH},${HEIGHT}`;
}

const percents = (shares: number[]) =>
  shares.map((share, i) => `${NAMES[i]} ${(share * 100).toFixed(1)} %`).join(", ");

export const Histogram = memo(function Histogram({ number }: { number: PaneNumber }) {
  const workspace = useWorkspace();
  const frame = useSlice((s) => s.panes[number]?.frame ?? null);
  const [found, setFound] = useState<Found | null>(null);
  useEffect(() => {
    if (!frame) return;
    const rest = setTimeout(() => workspace.askHost<Found>("histogram", number).then(setFound), REST_MS);
    return () => clearTimeout(rest);
  }, [workspace, number, frame]);
  if (!found?.channels) return null;
  // The two ends hold what is clipped as well: they do not set the height.
  const highest = Math.max(...found.channels.flatMap((channel) => channel.slice(1, -1)), 1e-6);
  return (
    <Box data-testid="histogram" sx={{ mt: 0.75 }}>
      <svg
        role="img"
        aria-label="Histogram of the picture"
        width={WIDTH}
        height={HEIGHT}
        style={{ display: "block", background: "rgba(0,0,0,0.35)", borderRadius: 3 }}
      >
        {found.channels.map((channel, i) => (
          <polygon
            key={NAMES[i]}
            points={curve(channel, highest)}
            fill={COLORS[i]}
            fillOpacity={0.22}
            stroke={COLORS[i]}
            strokeWidth={1}
            style={{ mixBlendMode: "screen" }}
          />
        ))}
      </svg>
      <Box sx={{ display: "flex", justifyContent: "space-between", mt: 0.25, width: WIDTH }}>
        <End label="At black" shares={found.crushed!} />
        <End label="At white" shares={found.clipped!} />
      </Box>
    </Box>
  );
});

function End({ label, shares }: { label: string; shares: number[] }) {
  const most = Math.max(...shares);
  return (
    <Tooltip title={`${label}: ${percents(shares)}`}>
      <Box
        component="span"
        data-testid={label === "At white" ? "clipped" : "crushed"}
        sx={{ fontSize: 10.5, color: most > WORTH_SAYING ? "secondary.main" : "text.disabled" }}
      >
        {`${label} ${(most * 100).toFixed(1)} %`}
      </Box>
    </Tooltip>
  );
}
