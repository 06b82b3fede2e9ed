/** A print in the strip: it as it is so far, progress, noise, time left, what can be done, its files. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { ChevronsUp, Download, Pause, Play, Trash2, X } from "lucide-react";
import type { ReactNode } from "react";
import { printFileUrl } from "../api/client";
import { isActive } from "../api/queries";
import type { PrintEntry } from "../api/types";
import { Glimpse } from "./Glimpse";
import { progressOf } from "./progress";

export const CARD_WIDTH = 316;

interface CardProps {
  print: PrintEntry;
  /** The card is one stop of the arrow keys; its buttons are reached from it. */
  item: { tabIndex: 0 | -1 };
  onCancel: () => void;
  onRetry: () => void;
  onRemove: () => void;
  onHold: () => void;
  onGoOn: () => void;
  onNext: () => void;
  onLook: () => void;
  /** It is to be made one earlier, -1, or later. */
  onMove: (step: -1 | 1) => void;
  /** Dragged onto another that waits, it takes that one's place. */
  drag: { onStart: () => void; takes: () => boolean; onDrop: () => void };
}

const STEPS: Record<string, -1 | 1> = { ArrowLeft: -1, ArrowRight: 1 };

export function PrintCard(props: CardProps) {
  const { print, item, onCancel, onRetry, onRemove, onHold, onGoOn, onNext, onLook, onMove, drag } = props;
  const waits = print.state === "queued";
  const share = (print.samples_done / print.samples) * 100;
  return (
    <Box
      {...item}
      role="group"
      aria-label={`Print ${print.id}`}
      data-testid={`print-${print.id}`}
      data-state={print.state}
      draggable={waits}
      onDragStart={drag.onStart}
      onDragOver={(event) => {
        if (waits && drag.takes()) event.preventDefault();
      }}
      onDrop={drag.onDrop}
      onKeyDown={(event) => {
        const step = event.altKey ? STEPS[event.key] : undefined;
        if (!step || !waits) return;
        event.preventDefault();
        event.stopPropagation();
        onMove(step);
      }}
      aria-keyshortcuts={waits ? "Alt+ArrowLeft Alt+ArrowRight" : undefined}
      sx={{
        width: CARD_WIDTH,
        flexShrink: 0,
        display: "flex",
        gap: 1.25,
        border: "1px solid",
        borderColor: "divider",
        borderRadius: 1,
        px: 1.25,
        py: 0.75,
        cursor: waits ? "grab" : undefined,
      }}
    >
      <Glimpse print={print} onLook={onLook} tabIndex={item.tabIndex} />
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Box sx={{ display: "flex", alignItems: "center" }}>
          <Typography variant="body2" noWrap title={print.name} sx={{ fontWeight: 600, flex: 1 }}>
            {print.name || `Print ${print.id}`}
          </Typography>
          {waits && (
            <CardButton {...item} title="Make it next" name={`Make print ${print.id} next`} onClick={onNext}>
              <ChevronsUp size={14} />
            </CardButton>
          )}
          {isActive(print) && (
            <CardButton {...item} title="Hold" name={`Hold print ${print.id}`} onClick={onHold}>
              <Pause size={13} />
            </CardButton>
          )}
          {print.state === "held" && (
            <CardButton {...item} title="Go on" name={`Go on with print ${print.id}`} onClick={onGoOn}>
              <Play size={13} />
            </CardButton>
          )}
          {isActive(print) || print.state === "held" ? (
            <CardButton {...item} title="Cancel" name={`Cancel print ${print.id}`} onClick={onCancel}>
              <X size={14} />
            </CardButton>
          ) : (
            <CardButton
              {...item}
              title="Remove with its files"
              name={`Remove print ${print.id}`}
              onClick={onRemove}
            >
              <Trash2 size={13} />
            </CardButton>
          )}
        </Box>
        <Typography
          variant="caption"
          color={print.state === "failed" ? "error" : "textSecondary"}
          noWrap={print.state === "failed"}
          component="p"
          title={print.error}
        >
          {print.width}×{print.height} · {progressOf(print)}
        </Typography>
        {(isActive(print) || print.state === "held") && (
          <LinearProgress
            color="secondary"
            variant={print.state === "queued" ? "indeterminate" : "determinate"}
            value={share}
            aria-label={`Progress of print ${print.id}`}
            sx={{ mt: 0.75 }}
          />
        )}
        {print.state === "failed" && (
          <Button
            size="small"
            tabIndex={item.tabIndex}
            onClick={onRetry}
            aria-label={`Try print ${print.id} again`}
            sx={{ py: 0 }}
          >
            Try again
          </Button>
        )}
        {print.state === "done" && (
          <Box sx={{ display: "flex", gap: 0.75, mt: 0.25 }}>
            {print.files.map((kind) => (
              <Button
                key={kind}
                size="small"
                tabIndex={item.tabIndex}
                // Five formats have room beside one another without pictures.
                startIcon={print.files.length < 3 && <Download size={13} />}
                href={printFileUrl(print, kind)}
                download
                aria-label={`Download ${kind.toUpperCase()} of print ${print.id}`}
                sx={{ py: 0, px: 0.75, minWidth: 0 }}
              >
                {kind.toUpperCase()}
              </Button>
            ))}
          </Box>
        )}
      </Box>
    </Box>
  );
}

interface CardButtonProps {
  tabIndex: 0 | -1;
  title: string;
  name: string;
  onClick: () => void;
  children: ReactNode;
}

function CardButton({ tabIndex, title, name, onClick, children }: CardButtonProps) {
  return (
    <Tooltip title={title}>
      <IconButton size="small" tabIndex={tabIndex} aria-label={name} onClick={onClick} sx={{ p: 0.4 }}>
        {children}
      </IconButton>
    </Tooltip>
  );
}
