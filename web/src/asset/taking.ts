/** Taking what an upload offers the project: another version of its asset, or one beside it. */
import { api } from "../api/client";
import type { Workspace } from "../store/workspace";

/** Take an offer, as one step of undo; whether it was taken. What was wrong is said. `matches` as for the server. */
export async function takeOffer(
  workspace: Workspace,
  upload: number,
  matches: Record<string, string> = {},
  asVariant = false,
): Promise<boolean> {
  workspace.letGo();
  try {
    await api.takeOffer(upload, matches, asVariant);
    workspace.takeReport(await api.project(workspace.getState().project));
    return true;
  } catch (error) {
    workspace.notify({ severity: "error", text: (error as Error).message });
    return false;
  }
}
