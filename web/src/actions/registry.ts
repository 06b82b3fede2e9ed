/** Every action once: what it is called, its keys, what it does. Feeds the shortcuts and the buttons' hints. */
import type { Camera } from "../api/types";
import { cameraPatch, type Workspace } from "../store/workspace";
import { dolly, orbit, pan } from "../viewport/orbit";

export interface Action {
  id: string;
  label: string;
  keys: string; // as react-hotkeys-hook reads them
  run: (workspace: Workspace) => void;
}

const TURN = Math.PI / 24;
const SHIFT = 0.04;
const STEP = 1.1;

const camera = (change: (camera: Camera) => Camera, label: string) => (workspace: Workspace) =>
  workspace.commit(cameraPatch(change(workspace.getState().scene.camera)), label);

export const actions: Action[] = [
  { id: "undo", label: "Undo", keys: "mod+z", run: (w) => w.undo() },
  { id: "redo", label: "Redo", keys: "mod+shift+z, mod+y", run: (w) => w.redo() },
  {
    id: "run",
    label: "Run or hold the proof",
    keys: "space",
    run: (w) => w.setRunning(!w.getState().running),
  },
  { id: "panels", label: "Fold drawer and shelf away", keys: "b", run: (w) => w.togglePanels() },
  { id: "fit", label: "Frame the asset", keys: "home", run: (w) => w.fit() },
  { id: "clear", label: "Clear the selection", keys: "escape", run: (w) => w.select(null) },
  { id: "orbit-left", label: "Orbit left", keys: "left", run: camera((c) => orbit(c, -TURN, 0), "Orbit") },
  { id: "orbit-right", label: "Orbit right", keys: "right", run: camera((c) => orbit(c, TURN, 0), "Orbit") },
  { id: "orbit-up", label: "Orbit up", keys: "up", run: camera((c) => orbit(c, 0, TURN), "Orbit") },
  { id: "orbit-down", label: "Orbit down", keys: "down", run: camera((c) => orbit(c, 0, -TURN), "Orbit") },
  { id: "pan-left", label: "Pan left", keys: "shift+left", run: camera((c) => pan(c, -SHIFT, 0), "Pan") },
  { id: "pan-right", label: "Pan right", keys: "shift+right", run: camera((c) => pan(c, SHIFT, 0), "Pan") },
  { id: "pan-up", label: "Pan up", keys: "shift+up", run: camera((c) => pan(c, 0, SHIFT), "Pan") },
  { id: "pan-down", label: "Pan down", keys: "shift+down", run: camera((c) => pan(c, 0, -SHIFT), "Pan") },
  { id: "dolly-in", label: "Dolly in", keys: "pageup", run: camera((c) => dolly(c, 1 / STEP), "Dolly") },
  { id: "dolly-out", label: "Dolly out", keys: "pagedown", run: camera((c) => dolly(c, STEP), "Dolly") },
];

export function action(id: string): Action {
  const found = actions.find((a) => a.id === id);
  if (!found) throw new Error(`there is no action ${id}`);
  return found;
}

/** "Undo (Ctrl+Z)" for a button's hint. */
export function hint(id: string): string {
  const { label, keys } = action(id);
  const [first = ""] = keys.split(", ");
  const words: Record<string, string> = { mod: "Ctrl", shift: "Shift", space: "Space", home: "Home" };
  return `${label} (${first
    .split("+")
    .map((k) => words[k] ?? k.toUpperCase())
    .join("+")})`;
}
