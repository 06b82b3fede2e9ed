/** Every action once: what it is called, its keys, what it does. Feeds shortcuts, hints, menus and the palette. */

import { leftOut, MODELS, type ModelForm, saveModel } from "../api/client";
import { pieces, ways } from "../api/fields.gen";
import type { Camera } from "../api/types";
import type { Piece } from "../asset/set";
import { glides, setGlides, stepShot } from "../camera/shots";
import { KEYS, takeNumber } from "../compare/variants";
import { copyMaterial, pasteMaterial } from "../materials/clipboard";
import { whyFixed } from "../motion/fixed";
import type { Scale, Way } from "../socket/panes";
import { FREE } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { type Handle, STOPS, type Tool } from "../store/view";
import type { Workspace } from "../store/workspace";
import { keepTake } from "../takes/keeping";
import { dolly, dollyFramed, orbit, otherLens, pan, zoom } from "../viewport/orbit";

export interface Action {
  id: string;
  label: string;
  keys: string; // as react-hotkeys-hook reads them; empty for none
  run: (workspace: Workspace) => void;
  /** Of one that lasts as long as its key is down: begins it, and returns what ends it. */
  held?: (workspace: Workspace) => () => void;
}

/** How long a glance at what was lasts, asked for by name. */
const GLANCE_MS = 1500;
const TURN = Math.PI / 24;
const SHIFT = 0.04;
const STEP = 1.1;

const camera = (change: (camera: Camera) => Camera, label: string) => (workspace: Workspace) => {
  const { active } = workspace.getState();
  const fixed = whyFixed(workspace.getState(), active);
  if (fixed) workspace.notify({ severity: "info", text: `${fixed}.` });
  else workspace.commitCamera(active, change(workspace.cameraOf(active)), label);
};
const tool = (wanted: Tool) => (w: Workspace) =>
  w.set({ tool: w.getState().tool === wanted ? "camera" : wanted });
const handle = (wanted: Handle) => (w: Workspace) =>
  w.set({ handle: w.getState().handle === wanted ? null : wanted });
const active = (workspace: Workspace) => {
  const { panes, active: number } = workspace.getState();
  return { number, pane: panes[number] ?? panes[0] };
};

function showBefore(w: Workspace): () => void {
  const { number } = active(w);
  w.setPane(number, { before: true });
  return () => w.setPane(number, { before: false });
}

/** Leave the innermost thing first: a tool, handles, what lies on a surface, the loupe, the selection, the picture alone. */
function stepBack(w: Workspace): void {
  const { tool: used, handle: held, placing, decal, selection, light, card, alone, takes } = w.getState();
  const { number, pane } = active(w);
  if (takes !== null) w.set({ takes: takes === "sheet" ? null : "sheet" });
  else if (used !== "camera") w.set({ tool: "camera" });
  else if (held) w.set({ handle: null });
  else if (placing || decal !== null) w.set({ placing: null, decal: null });
  else if (pane.loupe) w.setPane(number, { loupe: null });
  else if (selection.length > 0) w.select([]);
  else if (light !== null) w.chooseLight(null);
  else if (card !== null) w.set({ card: null });
  else if (alone) w.toggleAlone();
}

/** Hide or show parts, as one step of undo. */
export function setVisible(w: Workspace, keys: string[], visible: boolean, label: string): void {
  const { parts } = w.getState().scene;
  const patch = keys
    .filter((key) => parts[key] && parts[key].visible !== visible)
    .map((key) => replace(pointer("parts", key, "visible"), visible));
  if (patch.length > 0) w.commit(patch, label);
}

export function showOnly(w: Workspace, keys: string[]): void {
  const { parts } = w.getState().scene;
  const patch = Object.entries(parts)
    .filter(([key, part]) => part.visible !== keys.includes(key))
    .map(([key]) => replace(pointer("parts", key, "visible"), keys.includes(key)));
  if (patch.length > 0) w.commit(patch, "Show only this");
}

/** Put parts into a set, or into a new one. */
export function addToSet(w: Workspace, keys: string[], set: string | null): void {
  const { part_sets: sets } = w.getState().scene;
  if (set !== null && sets[set]) {
    const parts = [...new Set([...sets[set].parts, ...keys])];
    w.commit([replace(pointer("part_sets", set, "parts"), parts)], `Add to ${sets[set].name}`);
    return;
  }
  w.addSet(keys);
}

const lookThrough = (Object.entries(ways) as [Way, string][]).map(
  ([way, label]): Action => ({
    id: `way-${way}`,
    label: `Look at: ${label}`,
    keys: way === "proof" ? "alt+p" : way === "draft" ? "alt+d" : way === "clay" ? "alt+c" : "",
    run: (w) => w.setPane(active(w).number, { way }),
  }),
);

const scales = (["fit", "1", "1/2", "1/4"] as Scale[]).map(
  (scale): Action => ({
    id: `scale-${scale}`,
    label: scale === "fit" ? "Resolution: fit the view" : `Resolution: ${scale} of the print`,
    keys: "",
    run: (w) => w.setPane(active(w).number, { scale }),
  }),
);

export const actions: Action[] = [
  { id: "palette", label: "Find an action", keys: "mod+k", run: (w) => w.set({ palette: true }) },
  { id: "undo", label: "Undo", keys: "mod+z", run: (w) => w.undo() },
  {
    id: "earlier",
    label: "As it was before the last edit, while the key is down",
    keys: "x",
    run: (w) => {
      const back = w.showEarlier();
      setTimeout(back, GLANCE_MS);
    },
    held: (w) => w.showEarlier(),
  },
  {
    id: "before",
    label: "The picture before its look, while the key is down",
    keys: "e",
    run: (w) => {
      const back = showBefore(w);
      setTimeout(back, GLANCE_MS);
    },
    held: showBefore,
  },
  { id: "redo", label: "Redo", keys: "mod+shift+z, mod+y", run: (w) => w.redo() },
  {
    id: "run",
    label: "Run or hold the proof",
    keys: "space",
    run: (w) => w.setRunning(!w.getState().running),
  },
  {
    id: "keep-take",
    label: "Keep the picture as a take",
    keys: "k",
    run: (w) => void keepTake(w),
  },
  {
    id: "sheet",
    label: "Contact sheet of the takes",
    keys: "shift+k",
    run: (w) => {
      w.go("compare");
      w.set({ takes: w.getState().takes === null ? "sheet" : null });
    },
  },
  { id: "panels", label: "Fold drawer and shelf away", keys: "b", run: (w) => w.togglePanels() },
  { id: "alone", label: "The picture alone in the window", keys: "p", run: (w) => w.toggleAlone() },
  {
    id: "readout",
    label: "Fold the readout",
    keys: "i",
    run: (w) => w.set({ readout: !w.getState().readout }),
  },
  { id: "clear", label: "Step back: tool, handles, loupe, selection", keys: "escape", run: stepBack },
  { id: "fit", label: "Frame the asset", keys: "home", run: (w) => w.frameParts(active(w).number, null) },
  {
    id: "fit-selection",
    label: "Frame the selection",
    keys: "shift+home",
    run: (w) => w.getState().selection.length > 0 && w.frameParts(active(w).number, w.getState().selection),
  },
  { id: "area", label: "Select by a rectangle", keys: "r", run: tool("area") },
  { id: "loupe", label: "Loupe: draw the region that gets all computing", keys: "l", run: tool("loupe") },
  {
    id: "loupe-off",
    label: "Release the loupe",
    keys: "alt+l",
    run: (w) => w.setPane(active(w).number, { loupe: null }),
  },
  { id: "focus", label: "Focus by clicking on a surface", keys: "f", run: tool("focus") },
  { id: "walk", label: "Walk by the arrow keys, look around by dragging", keys: "alt+w", run: tool("walk") },
  {
    id: "roll-level",
    label: "Roll: back to level",
    keys: "",
    run: camera((c) => ({ ...c, roll: 0 }), "Level"),
  },
  {
    id: "focus-plane",
    label: "Show the plane of focus",
    keys: "shift+f",
    run: (w) => w.setPane(active(w).number, { focusPlane: !active(w).pane.focusPlane }),
  },
  { id: "move", label: "Handles: move", keys: "m", run: handle("move") },
  { id: "turn", label: "Handles: turn", keys: "t", run: handle("turn") },
  { id: "scale", label: "Handles: scale", keys: "s", run: handle("scale") },
  {
    id: "select-all",
    label: "Select the whole asset",
    keys: "mod+a",
    run: (w) => {
      const parts = Object.entries(w.getState().scene.parts);
      w.select(parts.filter(([, part]) => !part.form).map(([key]) => key));
    },
  },
  {
    id: "hide",
    label: "Hide the selection",
    keys: "h",
    run: (w) => setVisible(w, w.getState().selection, false, "Hide the selection"),
  },
  {
    id: "show-only",
    label: "Show only the selection",
    keys: "shift+h",
    run: (w) => w.getState().selection.length > 0 && showOnly(w, w.getState().selection),
  },
  {
    id: "show-all",
    label: "Show all parts",
    keys: "alt+h",
    run: (w) => setVisible(w, Object.keys(w.getState().scene.parts), true, "Show all parts"),
  },
  {
    id: "copy-material",
    label: "Copy the material of the selection",
    keys: "c",
    run: copyMaterial,
  },
  {
    id: "paste-material",
    label: "Give the selection the copied material",
    keys: "shift+c",
    run: pasteMaterial,
  },
  {
    id: "own-material",
    label: "A material of its own for the selection",
    keys: "",
    run: (w) => w.wardrobe("own", w.getState().selection),
  },
  {
    id: "unworn-materials",
    label: "Remove the materials that nothing wears",
    keys: "",
    run: (w) => w.wardrobe("unworn", []),
  },
  {
    id: "denoise",
    label: "Denoised picture on or off",
    keys: "n",
    run: (w) => w.commit([replace("/proof/denoise", !w.getState().scene.proof.denoise)], "Denoise"),
  },
  {
    id: "wire",
    label: "Lines of the mesh over the picture",
    keys: "w",
    run: (w) => w.setPane(active(w).number, { wire: !active(w).pane.wire }),
  },
  ...lookThrough,
  ...scales,
  { id: "second", label: "A free view beside the shot", keys: "v", run: (w) => w.toggleSecond() },
  {
    id: "maximise",
    label: "Maximise the view under the pointer",
    keys: "shift+v",
    run: (w) => w.maximise(w.getState().maximised === null ? w.getState().active : null),
  },
  { id: "from-front", label: "Free view: from the front", keys: "", run: (w) => w.lookFrom("front") },
  { id: "from-side", label: "Free view: from the side", keys: "", run: (w) => w.lookFrom("side") },
  { id: "from-top", label: "Free view: from the top", keys: "", run: (w) => w.lookFrom("top") },
  {
    id: "projection",
    label: "Perspective or orthographic",
    keys: "o",
    run: camera(
      (c) => ({ ...c, projection: c.projection === "perspective" ? "orthographic" : "perspective" }),
      "Projection",
    ),
  },
  {
    id: "timeline",
    label: "Unfold or fold the time line",
    keys: "shift+m",
    run: (w) => w.set({ timeline: !w.getState().timeline }),
  },
  { id: "next-shot", label: "Next shot", keys: "period", run: (w) => stepShot(w, 1) },
  { id: "previous-shot", label: "Shot before", keys: "comma", run: (w) => stepShot(w, -1) },
  {
    id: "glide",
    label: "A change of shot glides, or not",
    keys: "",
    run: (w) => {
      setGlides(!glides());
      w.notify({ severity: "info", text: glides() ? "Shots glide." : "Shots change at once." });
    },
  },
  {
    id: "longer-lens",
    label: "Next longer lens",
    keys: "bracketright",
    run: camera((c) => otherLens(c, 1), "Longer lens"),
  },
  {
    id: "shorter-lens",
    label: "Next shorter lens",
    keys: "bracketleft",
    run: camera((c) => otherLens(c, -1), "Shorter lens"),
  },
  {
    id: "lock",
    label: "Lock or unlock the shot's camera",
    keys: "shift+l",
    run: (w) => w.set({ locked: !w.getState().locked }),
  },
  {
    id: "adopt",
    label: "Take the free view as the shot",
    keys: "",
    run: (w) => {
      const free = w.getState().panes[FREE]?.camera;
      if (free) w.commitCamera(0, free, "Shot from the free view");
    },
  },
  {
    id: "whole",
    label: "Magnify: back to the whole picture",
    keys: "0",
    run: (w) => w.setPane(active(w).number, { magnifier: null }),
  },
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
  {
    id: "dolly-framed-out",
    label: "Dolly out with the framing kept",
    keys: "alt+shift+pagedown",
    run: camera((c) => dollyFramed(c, STEP), "Dolly, framing kept"),
  },
  {
    id: "dolly-framed-in",
    label: "Dolly in with the framing kept",
    keys: "alt+shift+pageup",
    run: camera((c) => dollyFramed(c, 1 / STEP), "Dolly, framing kept"),
  },
  { id: "zoom-in", label: "Zoom in", keys: "alt+pageup", run: camera((c) => zoom(c, STEP), "Zoom") },
  { id: "zoom-out", label: "Zoom out", keys: "alt+pagedown", run: camera((c) => zoom(c, 1 / STEP), "Zoom") },
  ...(Object.entries(pieces) as [Piece, string][]).map(
    ([piece, label]): Action => ({
      id: `build-${piece}`,
      label: `Add to the set: ${label}`,
      keys: "",
      run: (w) => w.arrange({ kind: "build", piece }),
    }),
  ),
  ...(Object.entries(MODELS) as [ModelForm, string][]).flatMap(([form, label]): Action[] => [
    {
      id: `export-${form}`,
      label: `Export what is seen as ${label}`,
      keys: "",
      run: (w) => exported(w, form, false),
    },
    {
      id: `export-${form}-baked`,
      label: `Export what is seen as ${label}, patterns made into images`,
      keys: "",
      run: (w) => exported(w, form, true),
    },
  ]),
  ...Array.from(
    { length: KEYS },
    (_, place): Action => ({
      id: `variant-${place + 1}`,
      label: `Compare: variant ${place + 1} of the newest`,
      keys: String(place + 1),
      run: (w) => takeNumber(w, place + 1),
    }),
  ),
  ...STOPS.map(
    (stop): Action => ({ id: `go-${stop}`, label: `Go to ${stop}`, keys: "", run: (w) => w.go(stop) }),
  ),
];

async function exported(w: Workspace, form: ModelForm, baked: boolean) {
  const how = baked ? "Images are made of its patterns: that may take minutes." : "It is saved in a moment.";
  w.notify({ severity: "info", text: `The model is being written. ${how}` });
  try {
    const said = leftOut(await saveModel(w.getState().project, form, baked));
    if (said) w.notify({ severity: "info", text: said });
  } catch (error) {
    w.notify({ severity: "error", text: (error as Error).message });
  }
}

export function action(id: string): Action {
  const found = actions.find((a) => a.id === id);
  if (!found) throw new Error(`there is no action ${id}`);
  return found;
}

const WORDS: Record<string, string> = {
  mod: "Ctrl",
  shift: "Shift",
  alt: "Alt",
  space: "Space",
  home: "Home",
  escape: "Esc",
  pageup: "Page up",
  pagedown: "Page down",
};

/** "Ctrl+Shift+Z" for the first keys of an action, empty when it has none. */
export function keysOf(one: Action): string {
  const [first = ""] = one.keys.split(", ");
  return first
    .split("+")
    .map((k) => WORDS[k] ?? k.charAt(0).toUpperCase() + k.slice(1))
    .join("+");
}

/** "Undo (Ctrl+Z)" for a button's hint. */
export function hint(id: string): string {
  const one = action(id);
  const keys = keysOf(one);
  return keys ? `${one.label} (${keys})` : one.label;
}
