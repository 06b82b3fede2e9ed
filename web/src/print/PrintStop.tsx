/** Print: the settings of the next final frame, and putting it into the queue. */
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Printer } from "lucide-react";
import { FieldGroups } from "../controls/FieldGroup";
import { useSlice, useWorkspace } from "../store/context";
import { OrderSection } from "./OrderSection";
import { PrintFilm } from "./PrintFilm";
import { useQueuePrint } from "./queue";

const [PRINT, RENDERING] = [[["print"]], [["rendering"]]];

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
      <OrderSection />
      <FieldGroups model="PrintSettings" places={PRINT!} open={["frame"]} />
      <FieldGroups model="Rendering" places={RENDERING!} open={["paths"]} />
    </>
  );
}
