/** Keeping takes of the open project, and changing what is said of them. */

import { changed, useChange, useTakes } from "../api/queries";
import { takes } from "../api/takes";
import type { Area, TakeChange, TakeEntry } from "../api/types";
import { useSlice } from "../store/context";
import { SHOT } from "../store/panes";
import type { Workspace } from "../store/workspace";

export const useTakesHere = () => useTakes(useSlice((s) => s.project)).data ?? [];

/** Keep what the view under the pointer shows, with the document as it is; its film too, to go on with it later. */
export async function keepTake(
  workspace: Workspace,
  reason: "kept" | "print" | "restore" = "kept",
  film = false,
) {
  const { active, project } = workspace.getState();
  const kept = await workspace.askHost<{ take: number; problem: string }>("take", active, { reason, film });
  if (!kept) return;
  await changed.takes(project);
  if (kept.problem) workspace.notify({ severity: "warning", text: kept.problem });
  else if (reason === "kept")
    workspace.notify({ severity: "info", text: "Kept as a take: it hangs on the contact sheet." });
}

/** Go on with the film of a take in the shot's view, which shows the same again. */
async function goOn(workspace: Workspace, take: number) {
  const opened = await workspace.askHost<{ samples: number; problem: string }>("reopen", SHOT, { take });
  if (opened?.problem) workspace.notify({ severity: "info", text: opened.problem });
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
export async function restore(workspace: Workspace, take: TakeEntry, areas?: Area[]) {
  try {
    const made = await takes.restoring(take.id, areas);
    await keepTake(workspace, "restore");
    workspace.commit(made.patch, made.label);
    workspace.set({ takes: null });
    if (take.film_bytes && !areas) await goOn(workspace, take.id);
  } catch (error) {
    workspace.notify({ severity: "info", text: (error as Error).message });
  }
}

/** A day as a heading: what was kept today stands by its hour. */
export const dayOf = (created: string) =>
  new Date(created).toLocaleDateString("en", { weekday: "long", day: "numeric", month: "long" });
export const hourOf = (created: string) =>
  new Date(created).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit", hour12: false });
