/** The prints: progress, time left, cancel, download. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Download, Trash2, X } from "lucide-react";
import { api, printFileUrl } from "../api/client";
import type { PrintEntry } from "../api/types";
import { duration } from "../shell/words";
import { useWorkspace } from "../store/context";
import { isActive, usePrintQueue } from "./queue";

const STATES: Record<string, string> = {
  queued: "In the queue",
  running: "Printing",
  done: "Done",
  failed: "Failed",
  canceled: "Cancelled",
};

export function PrintShelf() {
  const workspace = useWorkspace();
  const { prints, refresh } = usePrintQueue();
  if (prints.length === 0)
    return (
      <Typography color="textSecondary">
        Nothing has been printed yet. The first print appears here.
      </Typography>
    );
  const change = (done: Promise<unknown>) =>
    done.catch((error: Error) => workspace.notify({ severity: "error", text: error.message })).then(refresh);
  return (
    <Box
      component="ul"
      aria-label="Prints"
      sx={{ display: "flex", gap: 1.25, m: 0, p: 0, listStyle: "none" }}
    >
      {prints.map((print) => (
        <PrintCard
          key={print.id}
          print={print}
          onCancel={() => change(api.cancelPrint(print.id))}
          onRetry={() => change(api.retryPrint(print.id))}
          onRemove={() => change(api.deletePrint(print.id))}
        />
      ))}
    </Box>
  );
}

interface CardProps {
  print: PrintEntry;
  onCancel: () => void;
  onRetry: () => void;
  onRemove: () => void;
}

function PrintCard({ print, onCancel, onRetry, onRemove }: CardProps) {
  const share = (print.samples_done / print.samples) * 100;
  return (
    <Box
      component="li"
      data-testid={`print-${print.id}`}
      data-state={print.state}
      sx={{
        width: 236,
        flexShrink: 0,
        border: "1px solid",
        borderColor: "divider",
        borderRadius: 1,
        px: 1.25,
        py: 0.75,
      }}
    >
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography variant="body2" sx={{ fontWeight: 600, flex: 1 }}>
          Print {print.id} · {print.width}×{print.height}
        </Typography>
        {isActive(print) ? (
          <Tooltip title="Cancel">
            <IconButton size="small" aria-label={`Cancel print ${print.id}`} onClick={onCancel}>
              <X size={14} />
            </IconButton>
          </Tooltip>
        ) : (
          <Tooltip title="Remove with its files">
            <IconButton size="small" aria-label={`Remove print ${print.id}`} onClick={onRemove}>
              <Trash2 size={13} />
            </IconButton>
          </Tooltip>
        )}
      </Box>
      <Typography
        variant="caption"
        color={print.state === "failed" ? "error" : "textSecondary"}
        noWrap
        component="p"
        title={print.error}
      >
        {STATES[print.state]}
        {print.state === "running" && ` · ${print.samples_done} of ${print.samples} samples`}
        {print.seconds_left != null && ` · ${duration(print.seconds_left)} left`}
        {print.state === "failed" && `: ${print.error}`}
      </Typography>
      {isActive(print) && (
        <LinearProgress
          color="secondary"
          variant={print.state === "queued" ? "indeterminate" : "determinate"}
          value={share}
          aria-label={`Progress of print ${print.id}`}
          sx={{ mt: 0.75 }}
        />
      )}
      {print.state === "failed" && (
        <Button size="small" onClick={onRetry} aria-label={`Try print ${print.id} again`} sx={{ py: 0 }}>
          Try again
        </Button>
      )}
      {print.state === "done" && (
        <Box sx={{ display: "flex", gap: 0.75, mt: 0.25 }}>
          {(["png", "exr"] as const).map((kind) => (
            <Button
              key={kind}
              size="small"
              startIcon={<Download size={13} />}
              href={printFileUrl(print, kind)}
              download
              aria-label={`Download ${kind.toUpperCase()} of print ${print.id}`}
              sx={{ py: 0 }}
            >
              {kind.toUpperCase()}
            </Button>
          ))}
        </Box>
      )}
    </Box>
  );
}
