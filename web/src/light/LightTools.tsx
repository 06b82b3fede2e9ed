/** What the hand does with light in the picture: one tool at a time, which stays until another is taken. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import Tooltip from "@mui/material/Tooltip";
import { CircleDot, Crosshair, Lamp, Orbit, Ruler, Sparkle, SunDim } from "lucide-react";
import { useSlice, useWorkspace } from "../store/context";
import type { LightTool } from "../store/view";

const TOOLS: { tool: LightTool; label: string; hint: string; icon: typeof Lamp }[] = [
  {
    tool: "turn",
    label: "Turn",
    hint: "Drag to turn the environment about the asset; up and down tilts it",
    icon: Orbit,
  },
  {
    tool: "throw",
    label: "Throw",
    hint: "Drag a shadow: its light moves so that it falls there",
    icon: SunDim,
  },
  {
    tool: "glint",
    label: "Glint",
    hint: "Drag the highlight of the chosen light, card or sun",
    icon: Sparkle,
  },
  { tool: "aim", label: "Aim", hint: "Press where the chosen light is to point", icon: Crosshair },
  { tool: "card", label: "Card", hint: "Press on a surface where a lit card is to be reflected", icon: Lamp },
  {
    tool: "meter",
    label: "Meter",
    hint: "Press on two places: how bright each is, and their ratio",
    icon: Ruler,
  },
  { tool: "grey", label: "Grey", hint: "Press on an 18 % grey: exposure and white follow", icon: CircleDot },
];

export function LightTools() {
  const workspace = useWorkspace();
  const used = useSlice((s) => s.tool);
  return (
    <Box role="toolbar" aria-label="Light by hand" sx={{ display: "flex", gap: 0.4, mb: 1 }}>
      {TOOLS.map(({ tool, label, hint, icon: Icon }) => (
        <Tooltip key={tool} title={hint}>
          <ToggleButton
            value={tool}
            size="small"
            aria-label={label}
            selected={used === tool}
            onChange={() => workspace.set({ tool: used === tool ? "camera" : tool })}
            sx={{
              flex: 1,
              flexDirection: "column",
              gap: 0.25,
              px: 0,
              py: 0.6,
              fontSize: 11,
              lineHeight: 1.2,
            }}
          >
            <Icon size={15} aria-hidden />
            {label}
          </ToggleButton>
        </Tooltip>
      ))}
    </Box>
  );
}
