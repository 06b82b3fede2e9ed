/** The print queue of the open project. */
import { useMemo } from "react";
import { api } from "../api/client";
import { changed, useChange, usePrints } from "../api/queries";
import type { NewPrint, PrintEntry } from "../api/types";
import { useSlice } from "../store/context";
import type { Workspace } from "../store/workspace";
import { keepTake } from "../takes/keeping";

/** Prints as they come: what runs, what waits in the order in which it is made, what is held, and what has ended. */
export function inQueue(prints: readonly PrintEntry[]): PrintEntry[] {
  const rank = (print: PrintEntry) => ["running", "queued", "held"].indexOf(print.state) >>> 0;
  return [...prints].sort((a, b) => rank(a) - rank(b) || (a.place ?? 0) - (b.place ?? 0) || b.id - a.id);
}

/** The print whose place one that waits takes when it is to come one earlier, -1, or later; none at either end. */
export function neighbour(prints: readonly PrintEntry[], id: number, step: -1 | 1): PrintEntry | undefined {
  const waiting = inQueue(prints).filter((print) => print.state === "queued");
  return waiting[waiting.findIndex((print) => print.id === id) + step];
}

export function usePrintQueue(): PrintEntry[] {
  const { data } = usePrints(useSlice((s) => s.project));
  return useMemo(() => inQueue(data ?? []), [data]);
}

/** Something that is done to the queue; says so when it fails. */
function useQueueChange<Input>(workspace: Workspace, run: (input: Input) => Promise<unknown>) {
  const project = useSlice((s) => s.project);
  return useChange(
    run,
    () => changed.prints(project),
    (error) => workspace.notify({ severity: "error", text: error.message }),
  );
}

/** Queue a final frame of the project as it is, or a film of its time line. */
export const useQueuePrint = (workspace: Workspace) =>
  useQueueChange<NewPrint>(workspace, async (wanted) => {
    await api.queuePrint(workspace.getState().project, wanted);
    await keepTake(workspace, "print");
  });
export const useHoldPrint = (workspace: Workspace) => useQueueChange(workspace, api.holdPrint);
export const useGoOnPrint = (workspace: Workspace) => useQueueChange(workspace, api.goOnPrint);
export const usePrintNext = (workspace: Workspace) => useQueueChange(workspace, api.printNext);
export const usePrintBefore = (workspace: Workspace) => useQueueChange(workspace, api.printBefore);
export const useCancelPrint = (workspace: Workspace) => useQueueChange(workspace, api.cancelPrint);
export const useRetryPrint = (workspace: Workspace) => useQueueChange(workspace, api.retryPrint);
export const useRemovePrint = (workspace: Workspace) => useQueueChange(workspace, api.deletePrint);
