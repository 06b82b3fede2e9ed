/** Keys in the clipboard of this browser: taken from a track, laid into another one at the moment that is shown. */
import type { Keyed } from "../api/types";
import { keep, kept } from "../store/kept";
import { SHOT } from "../store/panes";
import type { Workspace } from "../store/workspace";

const NAME = "keys";

type Keys = Keyed["keys"];

export function copyKeys(workspace: Workspace, keys: Keys): void {
  keep(NAME, keys);
  const text = keys.length === 1 ? "One key is copied." : `${keys.length} keys are copied.`;
  workspace.notify({ severity: "info", text: `${text} Go to another moment, or to another track.` });
}

/** Lay what was copied into a track. */
export async function pasteKeys(workspace: Workspace, move: string): Promise<void> {
  const keys = kept<Keys | null>(NAME, null);
  if (!keys) workspace.notify({ severity: "info", text: "No key has been copied." });
  else await workspace.commitBy("paste_keys", SHOT, { move, keys });
}
