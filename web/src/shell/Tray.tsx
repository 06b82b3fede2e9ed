/** What runs: files that are brought in, prints. Each with its progress, time left, a way to stop it, and to open it. */
import Badge from "@mui/material/Badge";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Popover from "@mui/material/Popover";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Inbox, X } from "lucide-react";
import { type ReactNode, useState } from "react";
import { isActive } from "../api/queries";
import type { PrintEntry } from "../api/types";
import { forget, type Job, secondsLeft, stop, useJobs } from "../store/jobs";
import { duration } from "./words";

interface Printing {
  prints: PrintEntry[];
  onStop: (print: number) => void;
  onShow: () => void;
}

const WORDS = {
  asset: "Asset",
  environment: "HDR map",
  profile: "Profile",
  image: "Image",
  material: "Materials",
  look: "Look",
  picture: "Picture",
};

/** The button that shows how many run, and the list behind it. Prints are those of the open project. */
export function Tray({ printing }: { printing?: Printing }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const jobs = useJobs();
  const prints = printing?.prints.filter(isActive) ?? [];
  const running = jobs.filter((job) => job.state === "running").length + prints.length;
  const failed = jobs.some((job) => job.state === "failed");
  const count = running > 0 ? `${running} running` : jobs.length > 0 ? `${jobs.length} done` : "empty";
  const close = () => setAnchor(null);
  return (
    <>
      <Tooltip title={`Tray: ${count}`}>
        <IconButton
          size="small"
          aria-label={`Tray, ${count}`}
          aria-haspopup="dialog"
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <Badge
            badgeContent={running || jobs.length || null}
            color={failed ? "error" : running > 0 ? "secondary" : "primary"}
            slotProps={{ badge: { sx: { fontSize: 10, height: 15, minWidth: 15, p: 0 } } }}
          >
            <Inbox size={17} />
          </Badge>
        </IconButton>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={close}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
        slotProps={{ paper: { sx: { width: 320, maxHeight: 420, p: 1.5 }, "aria-label": "Tray" } }}
      >
        {jobs.length === 0 && prints.length === 0 && (
          <Typography color="textSecondary" variant="body2">
            Nothing runs. Imports and prints appear here.
          </Typography>
        )}
        <Box component="ul" aria-label="Jobs" sx={{ m: 0, p: 0, listStyle: "none" }}>
          {jobs.map((job) => (
            <BringingLine key={job.id} job={job} onOpen={close} />
          ))}
          {prints.map((print) => (
            <Line
              key={print.id}
              title={`Print ${print.id}`}
              said={print.state === "queued" ? "In the queue" : "Printing"}
              share={print.samples_done / print.samples}
              left={print.seconds_left ?? null}
              onStop={() => printing?.onStop(print.id)}
            >
              <Button
                size="small"
                onClick={() => {
                  close();
                  printing?.onShow();
                }}
              >
                Show
              </Button>
            </Line>
          ))}
        </Box>
      </Popover>
    </>
  );
}

function BringingLine({ job, onOpen }: { job: Job; onOpen: () => void }) {
  const { id, kind, file, state, stage, share, problem, result } = job;
  const isRunning = state === "running";
  const leave = () => {
    forget(id);
    onOpen();
  };
  return (
    <Line
      title={file}
      said={isRunning ? stage : state === "done" ? `${WORDS[kind]} is there` : problem}
      isWrong={state === "failed"}
      share={isRunning ? share : null}
      left={isRunning ? secondsLeft(job, Date.now()) : null}
      onStop={() => (isRunning ? stop(id) : forget(id))}
      stopWord={isRunning ? "Stop" : "Take out of the tray"}
    >
      {state === "done" && kind === "asset" && (
        <Button size="small" href={`#/projects/${result}`} onClick={leave}>
          Open
        </Button>
      )}
    </Line>
  );
}

interface LineProps {
  title: string;
  said: string;
  isWrong?: boolean;
  share: number | null;
  left: number | null;
  onStop: () => void;
  stopWord?: string;
  children?: ReactNode;
}

function Line({ title, said, isWrong = false, share, left, onStop, stopWord = "Stop", children }: LineProps) {
  return (
    <Box component="li" sx={{ py: 0.75, "& + li": { borderTop: "1px solid", borderColor: "divider" } }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
        <Typography variant="body2" noWrap sx={{ flex: 1, fontWeight: 600 }}>
          {title}
        </Typography>
        {children}
        <Tooltip title={stopWord}>
          <IconButton size="small" aria-label={`${stopWord}: ${title}`} onClick={onStop}>
            <X size={14} />
          </IconButton>
        </Tooltip>
      </Box>
      <Typography
        variant="caption"
        component="p"
        color={isWrong ? "error" : "textSecondary"}
        sx={{ overflowWrap: "anywhere" }}
      >
        {said}
        {share !== null && ` ${Math.round(share * 100)} %`}
        {left !== null && ` · ${duration(left)} left`}
      </Typography>
      {share !== null && (
        <LinearProgress
          color="secondary"
          variant="determinate"
          value={share * 100}
          aria-label={`Progress of ${title}`}
          sx={{ mt: 0.5, height: 3, borderRadius: 1 }}
        />
      )}
    </Box>
  );
}
