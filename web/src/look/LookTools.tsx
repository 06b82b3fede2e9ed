/** The look beside what was before it: while a button is down, or left of an edge; and marks in the picture. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import { Columns2, Eye } from "lucide-react";
import { hint } from "../actions/registry";
import { useSlice, useWorkspace } from "../store/context";
import { type Pane, SHOT } from "../store/panes";
import { PressProfile } from "./LookFile";

const MARKS: readonly (readonly [Pane["marks"], string, string])[] = [
  ["none", "None", "No marks"],
  ["clipping", "Clipping", "Stripes where the picture is white or black through and through"],
  ["gamut", "Gamut", "Stripes where colours lie beyond what the display can mix"],
  ["press", "Press", "Stripes where a press has no ink for a colour, by its profile"],
];

export function LookTools() {
  const workspace = useWorkspace();
  const edge = useSlice((s) => s.panes[SHOT]?.edge ?? null);
  const marks = useSlice((s) => s.panes[SHOT]?.marks ?? "none");
  const show = (before: boolean) => workspace.setPane(SHOT, { before });
  return (
    <Box sx={{ mb: 1.25 }}>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Tooltip describeChild title={hint("before")}>
          <Button
            fullWidth
            size="small"
            variant="outlined"
            startIcon={<Eye size={15} />}
            onPointerDown={() => show(true)}
            onPointerUp={() => show(false)}
            onPointerLeave={() => show(false)}
            onKeyDown={({ key }) => key === "Enter" && show(true)}
            onKeyUp={() => show(false)}
            onBlur={() => show(false)}
          >
            Before
          </Button>
        </Tooltip>
        <Button
          fullWidth
          size="small"
          variant={edge === null ? "outlined" : "contained"}
          startIcon={<Columns2 size={15} />}
          aria-pressed={edge !== null}
          onClick={() => workspace.setPane(SHOT, { edge: edge === null ? 0.5 : null })}
        >
          Edge
        </Button>
      </Box>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={marks}
        aria-label="Marks in the picture"
        onChange={(_, next: Pane["marks"] | null) => next && workspace.setPane(SHOT, { marks: next })}
        sx={{ mt: 1, "& .MuiToggleButton-root": { py: 0.15, fontSize: 11.5, textTransform: "none" } }}
      >
        {MARKS.map(([name, word, title]) => (
          <ToggleButton key={name} value={name} title={title}>
            {word}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {marks === "press" && <PressProfile />}
    </Box>
  );
}
