/** Going from shot to shot. */
import { keep, kept } from "../store/kept";
import { inOrder } from "../store/order";
import { SHOT } from "../store/panes";
import { isSame, replace } from "../store/patch";
import type { NewEntry, Workspace } from "../store/workspace";
import { between } from "../viewport/orbit";

const GLIDE_MS = 400;
const GLIDES = "shots.glide";
/** Whether a change of shot glides; kept in this browser. Whoever wants less motion has none. */
export const glides = (): boolean => kept(GLIDES, !matchMedia("(prefers-reduced-motion: reduce)").matches);
export const setGlides = (on: boolean): void => keep(GLIDES, on);

const eased = (share: number) => share * share * (3 - 2 * share);

/** Go to a shot: the camera glides there in coarse pictures, and then all of it is one step of undo. */
export async function goToShot(workspace: Workspace, key: string): Promise<void> {
  const answer = await workspace.askHost<{ made: NewEntry | null }>("take_shot", SHOT, { shot: key });
  const made = answer?.made;
  const { scene } = workspace.getState();
  const shot = scene.shots[key];
  if (!made || !shot || made.patch.length === 0) return;
  if (!glides() || shot.camera.projection !== scene.camera.projection) {
    workspace.commit(made.patch, made.label);
    return;
  }
  const from = scene.camera;
  const gesture = workspace.begin(made.label);
  const began = performance.now();
  const step = (now: number) => {
    // A second gesture has ended this one, where it was.
    if (gesture.isOver()) return;
    const share = Math.min((now - began) / GLIDE_MS, 1);
    if (share < 1) {
      gesture.preview([replace("/camera", between(from, shot.camera, eased(Math.max(share, 0))))]);
      requestAnimationFrame(step);
    } else {
      gesture.preview(made.patch);
      gesture.commit();
    }
  };
  requestAnimationFrame(step);
}

/** To the next shot, or the one before; from between shots to the first, or the last. */
export function stepShot(workspace: Workspace, step: 1 | -1): void {
  const { shots, shot_order: order, camera } = workspace.getState().scene;
  const entries = inOrder(shots, order);
  if (entries.length === 0) {
    workspace.notify({ severity: "info", text: "There are no shots yet: keep one at the stop Camera." });
    return;
  }
  const now = entries.findIndex(([, shot]) => isSame(shot.camera, camera));
  const next = now < 0 ? (step > 0 ? 0 : entries.length - 1) : (now + step + entries.length) % entries.length;
  void goToShot(workspace, entries[next]![0]);
}
