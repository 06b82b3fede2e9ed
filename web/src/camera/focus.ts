/** Setting the focus by hand: on a place, on a part that it follows, or between two places. */
import { type PaneNumber, SHOT } from "../store/panes";
import { replace } from "../store/patch";
import type { Workspace } from "../store/workspace";

/** Set the focus of a pane to a distance [m]; it follows nothing any more. */
export function focusTo(workspace: Workspace, number: PaneNumber, metres: number): void {
  const distance = Number(metres.toFixed(6));
  const own = workspace.getState().panes[number]?.camera;
  if (own) {
    workspace.setPane(number, { camera: { ...own, focus_distance: distance, focus_on: null } });
    return;
  }
  const follows = workspace.getState().scene.camera.focus_on ? [replace("/camera/focus_on", null)] : [];
  workspace.commit([replace("/camera/focus_distance", distance), ...follows], "Focus");
}

interface Share {
  x: number;
  y: number;
}

/** Focus on what is at a place of the picture, or follow it; returns what is to be said. */
export async function focusAt(workspace: Workspace, number: PaneNumber, at: Share): Promise<string> {
  if (number === SHOT && workspace.getState().follows) {
    const key = await workspace.commitBy("follow_focus", number, { at: [at.x, at.y] });
    if (key !== null) return "The focus follows it";
  }
  const found = await workspace.pick(number, at.x, at.y);
  if (!found) return "Nothing to focus on there";
  focusTo(workspace, number, found.focus);
  return `Focus ${found.focus.toFixed(3)} m`;
}

/** Have just what lies between two places sharp; returns what is to be said. */
export async function focusBetween(
  workspace: Workspace,
  number: PaneNumber,
  near: Share,
  far: Share,
): Promise<string> {
  const ends = { near: [near.x, near.y], far: [far.x, far.y] };
  const key = await workspace.commitBy("focus_between", number, ends);
  if (key === null) return "Nothing to focus on there";
  const { f_number } = workspace.getState().scene.camera;
  return `Sharp from there to there, at f/${f_number}`;
}
