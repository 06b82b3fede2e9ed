/** Keeping takes of the open project, and changing what is said of them. */

import { changed, useChange, useTakes } from "../api/queries";
import { takes } from "../api/takes";
import type { Area, TakeChange } from "../api/types";
import { useSlice } from "../store/context";
import type { Workspace } from "../store/workspace";

export const useTakesHere = () => useTakes(useSlice((s) => s.project)).data ?? [];

/** Keep what the view under the pointer shows, with the document as it is. */
export async function keepTake(workspace: Workspace, reason: "kept" | "print" | "restore" = "kept") {
  const { active, project } = workspace.getState();
  const kept = await workspace.askHost<{ take: number }>("take", active, { reason });
  if (!kept) return;
  await changed.takes(project);
  if (reason === "kept")
    workspace.notify({ severity: "info", text: "Kept as a take: it hangs on the contact sheet." });
}

/** Something that is done to a take; says so when it fails. */
export function useTakeChange<Input>(workspace: Workspace, run: (input: Input) => Promise<unknown>) {
  const project = useSlice((s) => s.project);
  return useChange(
    run,
    () => changed.takes(project),
    (error) => workspace.notify({ severity: "error", text: error.message }),
  );
}

export const useSaid = (workspace: Workspace, id: number) =>
  useTakeChange<TakeChange>(workspace, (change) => takes.change(id, change));

/** Make the project as it was at a take; how it is now is kept before. */
export async function restore(workspace: Workspace, id: number, areas?: Area[]) {
  try {
    const made = await takes.restoring(id, areas);
    await keepTake(workspace, "restore");
    workspace.commit(made.patch, made.label);
    workspace.set({ takes: null });
  } catch (error) {
    workspace.notify({ severity: "info", text: (error as Error).message });
  }
}

/** A day as a heading: what was kept today stands by its hour. */
export const dayOf = (created: string) =>
  new Date(created).toLocaleDateString("en", { weekday: "long", day: "numeric", month: "long" });
export const hourOf = (created: string) =>
  new Date(created).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit", hour12: false });
