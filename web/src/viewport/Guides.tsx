/** Guides over the shot's frame, and the menu that they are chosen from. */
import Checkbox from "@mui/material/Checkbox";
import IconButton from "@mui/material/IconButton";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Slider from "@mui/material/Slider";
import Tooltip from "@mui/material/Tooltip";
import { Frame as FrameIcon } from "lucide-react";
import { useState } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { GUIDES, type GuideKind, linesOf } from "./guides";
import type { Place } from "./layout";

export function Guides({ place }: { place: Place }) {
  const guides = useSlice((s) => s.guides);
  const margin = useSlice((s) => s.margin);
  const camera = useScene((s) => s.camera);
  if (guides.length === 0) return null;
  return (
    <svg
      aria-hidden
      data-testid="guides"
      style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}
    >
      {linesOf(guides, camera, place.width / place.height, margin).map(([x1, y1, x2, y2]) => {
        const ends = {
          x1: x1 * place.width,
          y1: y1 * place.height,
          x2: x2 * place.width,
          y2: y2 * place.height,
        };
        // Light in dark: seen over any picture.
        return (
          <g key={`${x1} ${y1} ${x2} ${y2}`}>
            <line {...ends} stroke="#000" strokeOpacity={0.4} strokeWidth={2.5} />
            <line {...ends} stroke="#f2ece3" strokeOpacity={0.75} strokeWidth={1} />
          </g>
        );
      })}
    </svg>
  );
}

export function GuidesButton() {
  const workspace = useWorkspace();
  const guides = useSlice((s) => s.guides);
  const margin = useSlice((s) => s.margin);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const toggle = (kind: GuideKind) =>
    workspace.showGuides(guides.includes(kind) ? guides.filter((each) => each !== kind) : [...guides, kind]);
  return (
    <>
      <Tooltip title="Guides">
        <IconButton
          size="small"
          aria-label="Guides"
          aria-haspopup="menu"
          onClick={(event) => setAnchor(event.currentTarget)}
          sx={{ p: 0.6, color: guides.length > 0 ? "primary.main" : "text.secondary" }}
        >
          <FrameIcon size={14} />
        </IconButton>
      </Tooltip>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {(Object.entries(GUIDES) as [GuideKind, string][]).map(([kind, label]) => (
          <MenuItem
            key={kind}
            dense
            role="menuitemcheckbox"
            aria-checked={guides.includes(kind)}
            onClick={() => toggle(kind)}
          >
            <Checkbox size="small" checked={guides.includes(kind)} tabIndex={-1} sx={{ p: 0.25, mr: 1 }} />
            <ListItemText primary={label} />
          </MenuItem>
        ))}
        {guides.includes("margins") && (
          <MenuItem dense disableRipple onKeyDown={(event) => event.stopPropagation()}>
            <ListItemText secondary={`${margin} %`} sx={{ flex: "none", width: 44 }} />
            <Slider
              size="small"
              min={1}
              max={40}
              value={margin}
              aria-label="Width of the margins"
              valueLabelDisplay="auto"
              valueLabelFormat={(value) => `${value} %`}
              onChange={(_, next) => workspace.showMargin(next)}
            />
          </MenuItem>
        )}
      </Menu>
    </>
  );
}
