/** The print queue of the open project: asked for often while something runs, seldom otherwise. */
import { useCallback, useEffect, useState } from "react";
import { api } from "../api/client";
import type { PrintEntry } from "../api/types";
import { useSlice } from "../store/context";
import type { Workspace } from "../store/workspace";

const BUSY_MS = 700;
const IDLE_MS = 5000;
const CHANGED = "print-queue-changed";

export const isActive = (print: PrintEntry) => print.state === "queued" || print.state === "running";

/** Queue a final frame of the project as it is; says so when that fails. */
export async function queuePrint(workspace: Workspace): Promise<void> {
  try {
    await api.queuePrint(workspace.getState().project);
  } catch (error) {
    workspace.notify({ severity: "error", text: (error as Error).message });
  }
}

export function usePrintQueue() {
  const project = useSlice((s) => s.project);
  const [prints, setPrints] = useState<PrintEntry[]>([]);

  const load = useCallback(() => api.prints(project).then(setPrints, () => undefined), [project]);
  /** Everybody who shows the queue asks again. */
  const refresh = useCallback(() => dispatchEvent(new Event(CHANGED)), []);

  const busy = prints.some(isActive);
  useEffect(() => {
    load();
    const timer = setInterval(load, busy ? BUSY_MS : IDLE_MS);
    addEventListener(CHANGED, load);
    return () => {
      clearInterval(timer);
      removeEventListener(CHANGED, load);
    };
  }, [load, busy]);

  return { prints, refresh };
}
