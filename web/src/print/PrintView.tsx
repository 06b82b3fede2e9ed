/** A print in large: while it is made, as it is so far. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Typography from "@mui/material/Typography";
import type { PrintEntry } from "../api/types";
import { GlimpsePicture } from "./Glimpse";
import { progressOf } from "./progress";

/** Pixels of the longer side of what is kept of a print: it is not magnified. */
const LARGEST = 640;

export function PrintView({ print, onClose }: { print: PrintEntry; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} maxWidth={false} aria-labelledby="print-view">
      <DialogTitle id="print-view" sx={{ pb: 1 }}>
        {print.name || `Print ${print.id} · ${print.width}×${print.height}`}
      </DialogTitle>
      <DialogContent sx={{ pb: 1 }}>
        <Box
          sx={{ width: Math.min(print.width, LARGEST), maxWidth: "100%", maxHeight: "62vh", display: "flex" }}
        >
          <GlimpsePicture print={print} />
        </Box>
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }} role="status">
          {progressOf(print)}
        </Typography>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
