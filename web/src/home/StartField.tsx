/** With which set-up a new project begins: a plain one, or the light, camera and look of another project. */
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Stack from "@mui/material/Stack";
import TextField from "@mui/material/TextField";
import type { StartEntry } from "../api/types";

export const PLAIN = 0;

interface Props {
  starts: StartEntry[];
  chosen: number;
  onChoose: (start: number) => void;
  onDefault: (start: StartEntry, isDefault: boolean) => void;
  onRemove: (start: StartEntry) => void;
}

export function StartField({ starts, chosen, onChoose, onDefault, onRemove }: Props) {
  const start = starts.find((one) => one.id === chosen);
  return (
    <Stack direction="row" sx={{ mt: 2, gap: 1, alignItems: "center", flexWrap: "wrap" }}>
      <TextField
        select
        size="small"
        label="New projects begin with"
        value={start?.id ?? PLAIN}
        onChange={(event) => onChoose(Number(event.target.value))}
        sx={{ minWidth: 240 }}
      >
        <MenuItem value={PLAIN}>A plain set-up</MenuItem>
        {starts.map((one) => (
          <MenuItem key={one.id} value={one.id}>
            {one.is_default ? `${one.name} (default)` : one.name}
          </MenuItem>
        ))}
      </TextField>
      {start && (
        <>
          <Button size="small" color="inherit" onClick={() => onDefault(start, !start.is_default)}>
            {start.is_default ? "No default" : "Make it the default"}
          </Button>
          <Button size="small" color="inherit" onClick={() => onRemove(start)}>
            Remove it
          </Button>
        </>
      )}
    </Stack>
  );
}
