/** The numbers behind a pane's picture; folded to a button when they are not wanted. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import { ChevronDown, Gauge } from "lucide-react";
import { memo, type ReactNode } from "react";
import { hint } from "../actions/registry";
import { duration, percent, rate } from "../shell/words";
import { useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";

const grouped = (n: number) => n.toLocaleString("en").replaceAll(",", " ");

export const Readout = memo(function Readout({
  number,
  children,
}: {
  number: PaneNumber;
  children: ReactNode;
}) {
  const workspace = useWorkspace();
  const open = useSlice((s) => s.readout);
  const status = useSlice((s) => s.panes[number]?.status ?? null);
  const opened = useSlice((s) => s.opened);
  const host = useSlice((s) => s.host);
  const toggle = () => workspace.set({ readout: !open });
  if (!open)
    return (
      <Tooltip title={hint("readout")}>
        <IconButton
          size="small"
          aria-label="Unfold the readout"
          onClick={toggle}
          sx={{ position: "absolute", left: 8, bottom: 8, bgcolor: "rgba(31,31,31,0.7)" }}
        >
          <Gauge size={15} />
        </IconButton>
      </Tooltip>
    );
  const rows: [string, string][] = status
    ? [
        ["Samples", `${status.samples} of ${status.wanted}`],
        ["Noise", status.noise === null ? "–" : percent(status.noise)],
        ["Time", duration(status.seconds)],
        ["Left", status.settled ? "settled" : duration(status.seconds_left)],
        ["Frame", `${status.width} × ${status.height}`],
        ["Speed", rate(status.rays_per_second)],
        [
          "Triangles",
          opened ? `${grouped(opened.triangles)} (${grouped(opened.unique_triangles)} unique)` : "–",
        ],
        ["Memory", `${grouped(status.memory_mib)} MiB`],
        ["Host", host],
      ]
    : [["Host", host]];
  if (status && status.dropped_samples > 0) rows.push(["Dropped", `${status.dropped_samples} samples`]);
  if (status && status.limited_samples > 0) rows.push(["Dimmed", `${status.limited_samples} samples`]);
  return (
    <Box
      data-testid="readout"
      sx={{
        position: "absolute",
        left: 8,
        bottom: 8,
        p: 1,
        pr: 1.5,
        borderRadius: 1.5,
        bgcolor: "rgba(31,31,31,0.86)",
      }}
    >
      <IconButton
        size="small"
        aria-label="Fold the readout"
        onClick={toggle}
        sx={{ position: "absolute", right: 2, top: 2, p: 0.4 }}
      >
        <ChevronDown size={14} />
      </IconButton>
      <Box
        component="dl"
        sx={{
          m: 0,
          display: "grid",
          gridTemplateColumns: "auto auto",
          columnGap: 1.5,
          rowGap: 0.2,
          fontSize: 11.5,
          "& dt": { color: "text.secondary" },
          "& dd": { m: 0, pr: 1.5 },
        }}
      >
        {rows.map(([name, value]) => (
          <Box key={name} sx={{ display: "contents" }}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </Box>
        ))}
      </Box>
      {children}
    </Box>
  );
});
