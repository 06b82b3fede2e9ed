/** Printing the time line: as which kind of file, how good. Only where something moves. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { Clapperboard } from "lucide-react";
import { useState } from "react";
import { videoForms } from "../api/fields.gen";
import type { NewPrint } from "../api/types";
import { framesOf } from "../motion/usePlayed";
import { useScene } from "../store/context";

const QUALITIES = { Small: 50, Good: 80, Best: 100 };
const SEQUENCES = { frames: "PNG", "frames-jpg": "JPEG", "frames-tif": "TIFF", "frames-exr": "EXR" };
type Form = NewPrint["form"];

const isLossy = (form: Form) => form in videoForms && videoForms[form as keyof typeof videoForms].lossy;

export function PrintFilm({ disabled, onPrint }: { disabled: boolean; onPrint: (wanted: NewPrint) => void }) {
  const motion = useScene((s) => s.motion);
  const { rate, seconds, moves } = motion;
  const samples = useScene((s) => s.print.samples);
  const [form, setForm] = useState<Form>("mp4");
  const [quality, setQuality] = useState(QUALITIES.Good);
  if (!Object.values(moves).some((move) => move.enabled)) return null;
  const frames = framesOf(motion);
  return (
    <Box
      component="section"
      aria-label="Film"
      sx={{ mt: 1.5, display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 1 }}
    >
      <Box sx={{ display: "flex", gap: 1 }}>
        <TextField
          select
          fullWidth
          size="small"
          label="As"
          value={form}
          onChange={({ target }) => setForm(target.value as Form)}
        >
          {Object.entries(videoForms).map(([key, { label }]) => (
            <MenuItem key={key} value={key}>
              {label}
            </MenuItem>
          ))}
          {Object.entries(SEQUENCES).map(([key, label]) => (
            <MenuItem key={key} value={key}>
              Frames, {label} in a zip
            </MenuItem>
          ))}
        </TextField>
        {isLossy(form) && (
          <TextField
            select
            size="small"
            label="Quality"
            value={quality}
            onChange={({ target }) => setQuality(Number(target.value))}
            sx={{ width: 130, flexShrink: 0 }}
          >
            {Object.entries(QUALITIES).map(([word, value]) => (
              <MenuItem key={word} value={value}>
                {word}
              </MenuItem>
            ))}
          </TextField>
        )}
      </Box>
      <Button
        fullWidth
        variant="outlined"
        startIcon={<Clapperboard size={16} />}
        disabled={disabled}
        onClick={() => onPrint({ form, quality })}
      >
        Print the film
      </Button>
      <Typography variant="caption" color="textSecondary">
        {frames.toLocaleString("en")} frames of {samples.toLocaleString("en")} samples, {seconds} s at {rate}{" "}
        a second.
      </Typography>
    </Box>
  );
}
