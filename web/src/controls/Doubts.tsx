/** What is hardly meant, or not possible, each with the patch that mends it at a click. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { Operation } from "../api/types";
import { useWorkspace } from "../store/context";

export interface Doubt {
  text: string;
  /** Empty where nothing mends it. */
  patch: Operation[];
}

interface Props {
  label: string;
  /** What the mending is called. */
  mend: string;
  doubts: readonly Doubt[];
}

export function Doubts({ label, mend, doubts }: Props) {
  const workspace = useWorkspace();
  if (doubts.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label={label}
      sx={{ my: 0.75, pl: 1.25, borderLeft: "2px solid", borderColor: "warning.main" }}
    >
      {doubts.map(({ text, patch }) => (
        <Box key={`${text} ${patch[0]?.path ?? ""}`} sx={{ mb: 0.5 }}>
          <Typography variant="body2">{text}</Typography>
          {patch.length > 0 && (
            <Button size="small" sx={{ ml: -0.75, px: 0.75 }} onClick={() => workspace.commit(patch, mend)}>
              {mend}
            </Button>
          )}
        </Box>
      ))}
    </Box>
  );
}
