/** What an orbit by hand turns about, whether the horizon stays level, and walking. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Footprints } from "lucide-react";
import { action, hint } from "../actions/registry";
import { useSlice, useWorkspace } from "../store/context";

interface ChoiceProps<Word extends string> {
  label: string;
  value: Word;
  words: readonly (readonly [Word, string, string])[];
  onChange: (next: Word) => void;
}

function Choice<Word extends string>({ label, value, words, onChange }: ChoiceProps<Word>) {
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 30 }}>
      <Typography variant="body2" color="textSecondary" noWrap sx={{ flex: 1 }}>
        {label}
      </Typography>
      <ToggleButtonGroup
        exclusive
        size="small"
        aria-label={label}
        value={value}
        onChange={(_, next: Word | null) => next && onChange(next)}
      >
        {words.map(([word, text, title]) => (
          <Tooltip key={word} describeChild title={title}>
            <ToggleButton value={word} sx={{ py: 0.1, px: 1, fontSize: 12 }}>
              {text}
            </ToggleButton>
          </Tooltip>
        ))}
      </ToggleButtonGroup>
    </Box>
  );
}

export function Turning() {
  const workspace = useWorkspace();
  const turning = useSlice((s) => s.turning);
  const walks = useSlice((s) => s.tool === "walk");
  return (
    <Box sx={{ mt: 0.5 }}>
      <Choice
        label="Orbit about"
        value={turning.about}
        words={[
          ["target", "The asset", "The point that the camera looks at stays in the middle"],
          ["pressed", "The hand", "What is pressed stays under the hand"],
        ]}
        onChange={(about) => workspace.turn({ about })}
      />
      <Choice
        label="Horizon"
        value={turning.horizon}
        words={[
          ["level", "Kept", "As on a turntable: what is up stays up"],
          ["free", "Free", "Turns over the top and tilts; the roll follows"],
        ]}
        onChange={(horizon) => workspace.turn({ horizon })}
      />
      <Tooltip title={hint("walk")} describeChild>
        <Button
          fullWidth
          size="small"
          variant={walks ? "contained" : "outlined"}
          startIcon={<Footprints size={15} />}
          aria-pressed={walks}
          onClick={() => action("walk").run(workspace)}
          sx={{ mt: 0.5 }}
        >
          Walk
        </Button>
      </Tooltip>
    </Box>
  );
}
