/** What an order has made and is making, side by side; on paper as well. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Typography from "@mui/material/Typography";
import { orders } from "../api/orders";
import { useOrderPrints } from "../api/queries";
import type { OrderEntry, PrintEntry } from "../api/types";
import { useWorkspace } from "../store/context";
import { GlimpsePicture } from "./Glimpse";
import { progressOf } from "./progress";

export function OrderSheet({ order, onClose }: { order: OrderEntry; onClose: () => void }) {
  const workspace = useWorkspace();
  const prints = useOrderPrints(order.id).data ?? [];
  const onPaper = async () => {
    try {
      await orders.sheet(order.id);
    } catch (error) {
      workspace.notify({ severity: "error", text: (error as Error).message });
    }
  };
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="order-sheet">
      <DialogTitle id="order-sheet" sx={{ pb: 1 }}>
        {order.name}
      </DialogTitle>
      <DialogContent>
        <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(210px, 1fr))", gap: 1.5 }}>
          {prints.map((print) => (
            <OnePrint key={print.id} print={print} />
          ))}
        </Box>
      </DialogContent>
      <DialogActions>
        <Button onClick={() => void onPaper()} disabled={order.done === 0}>
          Save as PDF
        </Button>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

const OnePrint = ({ print }: { print: PrintEntry }) => (
  <Box component="figure" sx={{ m: 0, minWidth: 0 }}>
    <Box sx={{ aspectRatio: "3 / 2", bgcolor: "background.default", borderRadius: 0.5, overflow: "hidden" }}>
      {print.glimpses > 0 && <GlimpsePicture print={print} />}
    </Box>
    <Typography
      component="figcaption"
      variant="caption"
      sx={{ display: "block", overflowWrap: "anywhere", mt: 0.5 }}
    >
      {print.name || `Print ${print.id}`}
      {print.state !== "done" && (
        <Typography
          variant="caption"
          component="span"
          color={print.state === "failed" ? "error" : "textSecondary"}
        >
          {` · ${progressOf(print)}`}
        </Typography>
      )}
    </Typography>
  </Box>
);
