/** A part of the project, found by its name: what a mask asks the distance of. */
import Autocomplete, { createFilterOptions } from "@mui/material/Autocomplete";
import TextField from "@mui/material/TextField";
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
  return (
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
          label={label}
          helperText={chosen !== null && !value ? "That part is not there any more." : undefined}
        />
      )}
      sx={{ my: 0.75 }}
    />
  );
}
