/** Some of several things, each by its box. */
import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Typography from "@mui/material/Typography";

interface SeveralProps {
  title: string;
  keys: string[];
  nameOf: (key: string) => string;
  chosen: string[];
  onChange: (keys: string[]) => void;
}

export function Several({ title, keys, nameOf, chosen, onChange }: SeveralProps) {
  if (keys.length === 0) return null;
  return (
    <Box component="fieldset" sx={{ border: 0, m: 0, p: 0, mb: 1 }}>
      <Typography component="legend" variant="body2" sx={{ fontWeight: 600, p: 0 }}>
        {title}
      </Typography>
      {keys.map((key) => (
        <FormControlLabel
          key={key}
          label={nameOf(key)}
          control={
            <Checkbox
              size="small"
              checked={chosen.includes(key)}
              onChange={(_, on) =>
                onChange(keys.filter((each) => (each === key ? on : chosen.includes(each))))
              }
            />
          }
        />
      ))}
    </Box>
  );
}
