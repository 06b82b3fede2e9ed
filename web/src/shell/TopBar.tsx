/** The bar on top: project and saving on the left, the proof in the middle, undo, redo and print on the right. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import MenuItem from "@mui/material/MenuItem";
import Popover from "@mui/material/Popover";
import Select from "@mui/material/Select";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { ArrowLeft, Pause, Play, Printer, Redo2, Search, Undo2 } from "lucide-react";
import { type ReactNode, useState } from "react";
import { hint } from "../actions/registry";
import { BoundField } from "../controls/bound";
import { useCancelPrint, usePrintQueue } from "../print/queue";
import type { Scale } from "../socket/panes";
import { useSlice, useWorkspace } from "../store/context";
import { Saving } from "./Saving";
import { Tray } from "./Tray";
import { Wordmark } from "./Wordmark";
import { duration, percent, rate } from "./words";

export const BAR_HEIGHT = 46;
const PROOF = [["proof"]];
const SCALES: [Scale, string][] = [
  ["fit", "Fit the view"],
  ["1", "1 of the print"],
  ["1/2", "1/2 of the print"],
  ["1/4", "1/4 of the print"],
];

export function TopBar({ onLeave }: { onLeave: () => void }) {
  const workspace = useWorkspace();
  const name = useSlice((s) => s.name);
  const canUndo = useSlice((s) => s.canUndo);
  const canRedo = useSlice((s) => s.canRedo);
  return (
    <Box
      component="header"
      sx={{
        height: BAR_HEIGHT,
        px: 1,
        display: "grid",
        gridTemplateColumns: "1fr auto 1fr",
        alignItems: "center",
        bgcolor: "background.paper",
        borderBottom: "1px solid",
        borderColor: "divider",
      }}
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, minWidth: 0 }}>
        <Hinted title="All projects" onClick={onLeave}>
          <ArrowLeft size={17} />
        </Hinted>
        <Wordmark />
        <Typography component="h1" noWrap color="textSecondary" sx={{ ml: 1 }}>
          {name}
        </Typography>
        <Saving />
      </Box>
      <ProofReadout />
      <Box sx={{ display: "flex", justifyContent: "flex-end", gap: 0.5 }}>
        <Hinted title={hint("palette")} onClick={() => workspace.set({ palette: true })}>
          <Search size={17} />
        </Hinted>
        <Hinted title={hint("undo")} disabled={!canUndo} onClick={workspace.undo}>
          <Undo2 size={17} />
        </Hinted>
        <Hinted title={hint("redo")} disabled={!canRedo} onClick={workspace.redo}>
          <Redo2 size={17} />
        </Hinted>
        <ProjectTray />
        <Button
          size="small"
          variant="outlined"
          startIcon={<Printer size={15} />}
          onClick={() => workspace.go("print")}
          sx={{ ml: 1 }}
        >
          Print
        </Button>
      </Box>
    </Box>
  );
}

function ProjectTray() {
  const workspace = useWorkspace();
  const cancel = useCancelPrint(workspace);
  return (
    <Tray
      printing={{
        prints: usePrintQueue(),
        onStop: (print) => cancel.mutate(print),
        onShow: () => workspace.go("print"),
      }}
    />
  );
}

interface HintedProps {
  title: string;
  disabled?: boolean;
  onClick: () => void;
  children: ReactNode;
}

function Hinted({ title, disabled = false, onClick, children }: HintedProps) {
  return (
    <Tooltip title={title}>
      <span>
        <IconButton
          size="small"
          aria-label={title.replace(/ \(.*/, "")}
          disabled={disabled}
          onClick={onClick}
        >
          {children}
        </IconButton>
      </span>
    </Tooltip>
  );
}

function ProofReadout() {
  const workspace = useWorkspace();
  const number = useSlice((s) => s.active);
  const status = useSlice((s) => s.panes[number]?.status ?? null);
  const scale = useSlice((s) => s.panes[number]?.scale ?? "fit");
  const [limits, setLimits] = useState<HTMLElement | null>(null);
  const running = useSlice((s) => s.running);
  const share = status ? Math.min(status.samples / status.wanted, 1) * 100 : 0;
  const state = !running ? "Held" : status?.settled ? "Settled" : status?.rests ? "Resting" : "Running";
  const summary = status ? `${state} ${status.samples}/${status.wanted}` : state;
  return (
    <Box
      sx={{ display: "flex", alignItems: "center", gap: 1.25 }}
      data-testid="proof"
      data-state={state.toLowerCase()}
    >
      <Tooltip title={hint("run")}>
        <IconButton
          size="small"
          color={running && !status?.settled ? "secondary" : "default"}
          aria-label={running ? "Hold the proof" : "Run the proof"}
          onClick={() => workspace.setRunning(!running)}
        >
          {running ? <Pause size={17} /> : <Play size={17} />}
        </IconButton>
      </Tooltip>
      <Select
        variant="standard"
        disableUnderline
        value={scale}
        inputProps={{ "aria-label": "Resolution" }}
        onChange={(event) => workspace.setPane(number, { scale: event.target.value as Scale })}
        renderValue={(value) => (value === "fit" ? "Fit" : value)}
        sx={{ fontSize: 12 }}
      >
        {SCALES.map(([value, label]) => (
          <MenuItem key={value} value={value} dense>
            {label}
          </MenuItem>
        ))}
      </Select>
      <Tooltip title="When the proof has settled: samples, noise, denoising">
        <ButtonBase
          aria-label={`${summary}. Limits of the proof`}
          aria-haspopup="dialog"
          onClick={(event) => setLimits(event.currentTarget)}
          sx={{ width: 92, display: "block", textAlign: "left" }}
        >
          <Typography variant="caption" component="p" noWrap sx={{ lineHeight: 1.3 }}>
            {summary}
          </Typography>
          <LinearProgress
            color="secondary"
            variant="determinate"
            value={share}
            aria-label="Samples of the proof"
            sx={{ height: 3, borderRadius: 1 }}
          />
        </ButtonBase>
      </Tooltip>
      <Popover
        open={limits !== null}
        anchorEl={limits}
        onClose={() => setLimits(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { sx: { p: 2, width: 260 }, "aria-label": "Limits of the proof" } }}
      >
        {["samples", "noise", "denoise"].map((name) => (
          <BoundField key={name} model="Proof" places={PROOF} name={name} />
        ))}
        <Typography variant="caption" color="textSecondary">
          The proof settles after so many samples, or where it has no more noise than that.
        </Typography>
      </Popover>
      {status && (
        <Box
          sx={{
            display: "grid",
            // A narrow window keeps the bar's buttons; the readout over the picture says the same.
            "@media (max-width: 1100px)": { display: "none" },
            gridTemplateColumns: "repeat(4, auto)",
            columnGap: 1.75,
            m: 0,
            "& dt": { fontSize: 10, color: "text.secondary", lineHeight: 1.2 },
            "& dd": { m: 0, fontSize: 12, lineHeight: 1.25 },
          }}
          component="dl"
        >
          <Pair name="Size" value={`${status.width}×${status.height}`} />
          <Pair name="Noise" value={status.noise === null ? "–" : percent(status.noise)} />
          <Pair name="Left" value={status.settled ? "0 s" : duration(status.seconds_left)} />
          <Pair name="Speed" value={rate(status.rays_per_second)} />
        </Box>
      )}
    </Box>
  );
}

function Pair({ name, value }: { name: string; value: string }) {
  return (
    <Box sx={{ minWidth: 52 }}>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </Box>
  );
}
