/** Orders of the open project: how far they are, their files as one, and a new one. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Download, LayoutGrid, Plus, RotateCw, Square, Trash2 } from "lucide-react";
import { useState } from "react";
import { orders } from "../api/orders";
import { changed, useChange, useOrders } from "../api/queries";
import type { OrderEntry } from "../api/types";
import { Section } from "../controls/Section";
import { useSlice, useWorkspace } from "../store/context";
import { NewOrder } from "./NewOrder";
import { OrderSheet } from "./OrderSheet";

export function OrderSection() {
  const project = useSlice((s) => s.project);
  const there = useOrders(project).data ?? [];
  const [making, setMaking] = useState(false);
  return (
    <Section title="Orders">
      {there.map((each) => (
        <OneOrder key={each.id} order={each} />
      ))}
      <Button
        fullWidth
        size="small"
        variant="outlined"
        startIcon={<Plus size={15} />}
        onClick={() => setMaking(true)}
      >
        Order many
      </Button>
      {making && <NewOrder onClose={() => setMaking(false)} />}
    </Section>
  );
}

function stateOf({ prints, done, failed, open }: OrderEntry): string {
  const stopped = prints.length - done - failed - open;
  const words = [
    `${done} of ${prints.length} made`,
    failed > 0 && `${failed} failed`,
    stopped > 0 && `${stopped} stopped`,
  ];
  return words.filter(Boolean).join(", ");
}

function OneOrder({ order }: { order: OrderEntry }) {
  const workspace = useWorkspace();
  const change = useChange(
    (run: () => Promise<unknown>) => run(),
    () => changed.orders(workspace.getState().project),
    (error) => workspace.notify({ severity: "error", text: error.message }),
  );
  const [isSeen, setSeen] = useState(false);
  const total = order.prints.length;
  const rests = order.open === 0 && order.done < total;
  const actions = [
    order.done > 0 &&
      ({ title: "Save all files", Icon: Download, run: () => orders.file(order.id) } as const),
    order.open > 0 && ({ title: "Stop", Icon: Square, run: () => orders.stop(order.id) } as const),
    rests && ({ title: "Go on", Icon: RotateCw, run: () => orders.resume(order.id) } as const),
    { title: "Remove", Icon: Trash2, run: () => orders.remove(order.id) } as const,
  ].filter((each) => each !== false);
  return (
    <Box role="group" aria-label={`Order ${order.name}`} sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="body2" noWrap>
            {order.name}
          </Typography>
          <Typography
            variant="caption"
            color={order.failed > 0 ? "error" : "textSecondary"}
            component="p"
            noWrap
          >
            {stateOf(order)}
          </Typography>
        </Box>
        <Tooltip title="Side by side">
          <IconButton size="small" aria-label={`Side by side: ${order.name}`} onClick={() => setSeen(true)}>
            <LayoutGrid size={14} />
          </IconButton>
        </Tooltip>
        {isSeen && <OrderSheet order={order} onClose={() => setSeen(false)} />}
        {actions.map(({ title, Icon, run }) => (
          <Tooltip key={title} title={title}>
            <IconButton
              size="small"
              aria-label={`${title}: ${order.name}`}
              onClick={() => change.mutate(run)}
            >
              <Icon size={14} />
            </IconButton>
          </Tooltip>
        ))}
      </Box>
      {order.open > 0 && (
        <LinearProgress
          variant="determinate"
          color="secondary"
          aria-label={`Pictures of ${order.name}`}
          value={(100 * order.done) / Math.max(total, 1)}
        />
      )}
    </Box>
  );
}
