/** Print: the settings of the next final frame, and putting it into the queue. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Printer, ScanSearch } from "lucide-react";
import { FrameShape } from "../camera/FrameShape";
import { FieldGroups } from "../controls/FieldGroup";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { FileNames } from "./FileNames";
import { OrderSection } from "./OrderSection";
import { PrintFilm } from "./PrintFilm";
import { useQueuePrint } from "./queue";
import { WorkerSection } from "./WorkerSection";

const [PRINT, RENDERING] = [[["print"]], [["rendering"]]];

const FILES = { files: <FileNames /> };

export function PrintStop() {
  const workspace = useWorkspace();
  const saved = useSlice((s) => s.saved);
  const queuePrint = useQueuePrint(workspace);
  return (
    <>
      <Button
        fullWidth
        variant="contained"
        startIcon={<Printer size={16} />}
        disabled={!saved || queuePrint.isPending}
        onClick={() => queuePrint.mutate({ form: "still", quality: 80 })}
      >
        Print this frame
      </Button>
      <PrintFilm disabled={!saved || queuePrint.isPending} onPrint={queuePrint.mutate} />
      <Typography variant="caption" color="textSecondary" component="p" sx={{ my: 1 }}>
        The proof has the shape of this frame and shows the same picture.
      </Typography>
      <FrameShape />
      <Part />
      <Box sx={{ mt: 1.5 }}>
        <OrderSection />
      </Box>
      <WorkerSection />
      <FieldGroups model="PrintSettings" places={PRINT!} open={["frame"]} more={FILES} />
      <FieldGroups model="Rendering" places={RENDERING!} open={["paths"]} />
    </>
  );
}

/** Printing a part of the frame alone: that under the loupe. */
function Part() {
  const workspace = useWorkspace();
  const region = useScene((s) => s.print.region);
  const loupe = useSlice((s) => s.panes[SHOT]?.loupe ?? null);
  if (!region && !loupe) return null;
  const take = (next: typeof region, label: string) =>
    workspace.commit([replace(pointer("print", "region"), next)], label);
  return region ? (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 0.75 }}>
      <Typography variant="caption" sx={{ flex: 1 }}>
        Only a part is printed: {percent(region[2] - region[0])} × {percent(region[3] - region[1])} of the
        frame.
      </Typography>
      <Button size="small" onClick={() => take(null, "Print the whole frame")}>
        Whole frame
      </Button>
    </Box>
  ) : (
    <Button
      fullWidth
      size="small"
      variant="outlined"
      startIcon={<ScanSearch size={15} />}
      onClick={() => take(loupe, "Print the part under the loupe")}
      sx={{ mt: 0.75 }}
    >
      Only what the loupe shows
    </Button>
  );
}

const percent = (share: number) => `${Math.round(100 * share)} %`;
