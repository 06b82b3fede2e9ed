/** The print queue of the open project. */
import { api } from "../api/client";
import { changed, useChange, usePrints } from "../api/queries";
import type { NewPrint } from "../api/types";
import { useSlice } from "../store/context";
import type { Workspace } from "../store/workspace";
import { keepTake } from "../takes/keeping";

export const usePrintQueue = () => usePrints(useSlice((s) => s.project)).data ?? [];

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
export const useCancelPrint = (workspace: Workspace) => useQueueChange(workspace, api.cancelPrint);
export const useRetryPrint = (workspace: Workspace) => useQueueChange(workspace, api.retryPrint);
export const useRemovePrint = (workspace: Workspace) => useQueueChange(workspace, api.deletePrint);
