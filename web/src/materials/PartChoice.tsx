/** A part of the project, found by its name: what a mask asks the distance of. */
import Autocomplete, { createFilterOptions } from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import { useScene } from "../store/context";

/** More are not listed at once: a name narrows them. */
const MOST = 60;
const filter = createFilterOptions<{ key: string; label: string }>({ limit: MOST });

interface Props {
  label: string;
  chosen: string | null;
  onChoose: (part: string | null) => void;
}

export function PartChoice({ label, chosen, onChoose }: Props) {
  const parts = useScene((s) => s.parts);
  const options = useMemo(
    () => Object.entries(parts).map(([key, { name }]) => ({ key, label: name })),
    [parts],
  );
  const value = chosen === null ? null : (options.find(({ key }) => key === chosen) ?? null);
  const isGone = chosen !== null && !value;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, my: 0.5 }}>
      <Typography variant="body2" color="textSecondary" sx={{ flexShrink: 0 }}>
        {label}
      </Typography>
      <Autocomplete
        size="small"
        options={options}
        filterOptions={filter}
        value={value}
        isOptionEqualToValue={(a, b) => a.key === b.key}
        onChange={(_, next) => onChoose(next?.key ?? null)}
        renderOption={(props, option) => (
          <li {...props} key={option.key}>
            {option.label}
          </li>
        )}
        renderInput={(params) => (
          <TextField
            {...params}
            placeholder="A part"
            error={isGone}
            helperText={isGone ? "That part is not there any more." : undefined}
            slotProps={{
              ...params.slotProps,
              htmlInput: { ...params.slotProps.htmlInput, "aria-label": label },
            }}
          />
        )}
        slotProps={{ listbox: { sx: { fontSize: 13 } } }}
        sx={{ flex: 1, minWidth: 0, "& .MuiInputBase-root": { fontSize: 13, py: 0 } }}
      />
    </Box>
  );
}
