/** The prints as a strip of cards; one is looked at in large. */
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";
import { Strip } from "../controls/Strip";
import { useWorkspace } from "../store/context";
import { CARD_WIDTH, PrintCard } from "./PrintCard";
import { PrintView } from "./PrintView";
import {
  neighbour,
  useCancelPrint,
  useGoOnPrint,
  useHoldPrint,
  usePrintBefore,
  usePrintNext,
  usePrintQueue,
  useRemovePrint,
  useRetryPrint,
} from "./queue";

const PITCH = CARD_WIDTH + 10;

export function PrintShelf() {
  const workspace = useWorkspace();
  const prints = usePrintQueue();
  const cancel = useCancelPrint(workspace);
  const retry = useRetryPrint(workspace);
  const remove = useRemovePrint(workspace);
  const hold = useHoldPrint(workspace);
  const goOn = useGoOnPrint(workspace);
  const next = usePrintNext(workspace);
  const before = usePrintBefore(workspace);
  const dragged = useRef<number | null>(null);
  const [seen, setSeen] = useState<number | null>(null);
  const looked = prints.find((print) => print.id === seen);
  if (prints.length === 0)
    return (
      <Typography color="textSecondary" sx={{ px: 2, py: 1.25 }}>
        Nothing has been printed yet. The first print appears here.
      </Typography>
    );
  return (
    <>
      {looked && <PrintView print={looked} onClose={() => setSeen(null)} />}
      <Strip
        label="Prints"
        count={prints.length}
        pitch={PITCH}
        keyOf={(index) => `${prints[index]!.id}`}
        render={(index, item) => {
          const print = prints[index]!;
          return (
            <PrintCard
              print={print}
              item={item}
              onCancel={() => cancel.mutate(print.id)}
              onRetry={() => retry.mutate(print.id)}
              onRemove={() => remove.mutate(print.id)}
              onHold={() => hold.mutate(print.id)}
              onGoOn={() => goOn.mutate(print.id)}
              onNext={() => next.mutate(print.id)}
              onLook={() => setSeen(print.id)}
              onMove={(step) => {
                const other = neighbour(prints, print.id, step);
                if (other) before.mutate({ id: print.id, other: other.id });
              }}
              drag={{
                onStart: () => {
                  dragged.current = print.id;
                },
                takes: () => dragged.current !== null && dragged.current !== print.id,
                onDrop: () => {
                  const id = dragged.current;
                  dragged.current = null;
                  if (id !== null && id !== print.id) before.mutate({ id, other: print.id });
                },
              }}
            />
          );
        }}
      />
    </>
  );
}
