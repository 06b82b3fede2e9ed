/** The time line beneath the picture: folded it plays and scrubs, unfolded it has the moves and what they are like. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import Slider from "@mui/material/Slider";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { ChevronDown, ChevronUp, Clapperboard, Pause, Play } from "lucide-react";
import { useRef } from "react";
import { hint } from "../actions/registry";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { replace } from "../store/patch";
import { LINE_BEGINS, LINE_ENDS, Moves } from "./Moves";
import { useMoved } from "./useMoved";
import { framesOf, MOMENT, usePlayed } from "./usePlayed";

const BAR_HEIGHT = 38;
const FOLD_WIDTH = 32;

export function Timeline() {
  const workspace = useWorkspace();
  const open = useSlice((s) => s.timeline);
  const hasMoves = useScene((s) => Object.keys(s.motion.moves).length > 0);
  useMoved();
  const unfold = () => workspace.set({ timeline: !open });
  if (!open && !hasMoves)
    return (
      <Box sx={{ position: "relative" }}>
        <Tooltip title={hint("timeline")}>
          <IconButton
            size="small"
            aria-label="Unfold the time line"
            onClick={unfold}
            sx={{ position: "absolute", right: 8, bottom: 8, zIndex: 2, bgcolor: "rgba(31,31,31,0.7)" }}
          >
            <Clapperboard size={15} />
          </IconButton>
        </Tooltip>
      </Box>
    );
  return (
    <Box
      component="section"
      aria-label="Time line"
      sx={{ bgcolor: "background.paper", borderTop: "1px solid", borderColor: "divider" }}
    >
      <Box sx={{ height: BAR_HEIGHT, display: "flex", alignItems: "center", px: 1 }}>
        <Transport isOpen={open} />
        <Tooltip title={hint("timeline")}>
          <IconButton
            size="small"
            aria-label={open ? "Fold the time line" : "Unfold the time line"}
            onClick={unfold}
          >
            {open ? <ChevronDown size={15} /> : <ChevronUp size={15} />}
          </IconButton>
        </Tooltip>
      </Box>
      {open && <Moves />}
    </Box>
  );
}

/** Playing, and the moment that is shown: by hand along the whole. */
function Transport({ isOpen }: { isOpen: boolean }) {
  const workspace = useWorkspace();
  const motion = useScene((s) => s.motion);
  const { seconds, rate } = motion;
  const time = useScene((s) => s.shutter.time);
  const { isPlaying, toggle } = usePlayed();
  const held = useRef<Gesture | null>(null);
  const scrub = (moment: number) => {
    held.current ??= workspace.begin("Moment");
    held.current.preview([replace(MOMENT, Number(moment.toFixed(4)))]);
  };
  const letGo = () => {
    held.current?.commit();
    held.current = null;
  };
  const Icon = isPlaying ? Pause : Play;
  return (
    <>
      <Box sx={{ width: LINE_BEGINS - 8, display: "flex", alignItems: "center", gap: 0.75 }}>
        <IconButton size="small" aria-label={isPlaying ? "Stop playing" : "Play"} onClick={toggle}>
          <Icon size={16} />
        </IconButton>
        <Typography variant="caption" data-testid="moment" noWrap sx={{ fontVariantNumeric: "tabular-nums" }}>
          {time.toFixed(2)} s · frame {Math.round(time * rate)} of {framesOf(motion)}
        </Typography>
      </Box>
      <Slider
        size="small"
        aria-label="Moment"
        min={0}
        max={seconds}
        step={1 / rate}
        shiftStep={10 / rate}
        value={Math.min(Math.max(time, 0), seconds)}
        getAriaValueText={(value) => `${value.toFixed(2)} s`}
        onChange={(_, value) => scrub(value as number)}
        onChangeCommitted={letGo}
        // Above the lines of the moves, so that one moment stands in one place.
        sx={{ flex: 1, mr: isOpen ? `${LINE_ENDS - FOLD_WIDTH}px` : 2 }}
      />
    </>
  );
}
