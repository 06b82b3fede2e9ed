/** What the hand does in a picture: turning and shifting the camera, drawing a loupe, focusing, choosing, the wheel. */

import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Camera } from "../api/types";
import { focusAt, focusBetween } from "../camera/focus";
import { whyFixed } from "../motion/fixed";
import type { Loupe } from "../socket/panes";
import { useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import type { PaneNumber } from "../store/panes";
import type { DrawnLine, LightTool } from "../store/view";
import { magnified, type Place, placeOf, type Size, shifted } from "./layout";
import { dolly, dollyFramed, lookAround, orbitAbout, pan, reach, roll, tumble, zoom } from "./orbit";
import { isLightTool, useLightHand } from "./useLightHand";
import { useWalk } from "./useWalk";
import type { Vector } from "./vectors";

const CLICK_PIXELS = 4;
const ORBIT_RADIANS_A_PICTURE = Math.PI;
const WHEEL_STEP = 1.1;
const MAGNIFY_STEP = 1.25;
const WHEEL_REST_MS = 250;
const SAYING_MS = 1200;
const LEAST_LOUPE = 0.004;
const DOUBLE_CLICK_MS = 320;
/** Looking around turns as far as the lens sees, not half a circle. */
const LOOK_SLOWER = 3;
const LABELS: Record<string, string> = { pan: "Pan", roll: "Roll", walk: "Look around" };

interface Press {
  x: number;
  y: number;
  last: { x: number; y: number };
  camera: Camera;
  what:
    | "orbit"
    | "roll"
    | "walk"
    | "pan"
    | "shift"
    | "loupe"
    | "area"
    | "focus"
    | "stick"
    | "locked"
    | LightTool;
  /** What an orbit turns about, once it is known. */
  about: Vector | null;
  /** From the first move on, where the camera moves. */
  gesture: Gesture<Camera> | null;
  menu: boolean;
  moved: boolean;
}

export interface MenuPlace {
  left: number;
  top: number;
  x: number;
  y: number;
}

interface Gestures {
  place: Place;
  saying: string;
  /** A loupe in the drawing, and a rectangle that selects. */
  drawn: Loupe | null;
  area: Loupe | null;
  /** From what to what is to be sharp. */
  span: DrawnLine | null;
  menu: MenuPlace | null;
  closeMenu: () => void;
  handlers: {
    onPointerDown: (event: React.PointerEvent) => void;
    onPointerMove: (event: React.PointerEvent) => void;
    onPointerUp: (event: React.PointerEvent) => void;
    onPointerCancel: () => void;
    onContextMenu: (event: React.MouseEvent) => void;
  };
}

/** A short message that goes away by itself. */
function useSaying(): [string, (text: string) => void] {
  const [saying, setSaying] = useState("");
  const rest = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const say = useCallback((text: string) => {
    setSaying(text);
    clearTimeout(rest.current);
    rest.current = setTimeout(() => setSaying(""), SAYING_MS);
  }, []);
  return [saying, say];
}

export function useGestures(
  number: PaneNumber,
  surround: RefObject<HTMLDivElement | null>,
  css: Size,
  full: Size,
): Gestures {
  const workspace = useWorkspace();
  const magnifier = useSlice((s) => s.panes[number]?.magnifier ?? null);
  const fixed = useSlice((s) => whyFixed(s, number));
  const locked = fixed !== null;
  const [saying, say] = useSaying();
  const turning = useSlice((s) => s.turning);
  const lightHand = useLightHand(number, say);
  useWalk(number, say);
  const [drawn, setDrawn] = useState<Loupe | null>(null);
  const [area, setArea] = useState<Loupe | null>(null);
  const [span, setSpan] = useState<DrawnLine | null>(null);
  const [menu, setMenu] = useState<MenuPlace | null>(null);
  const press = useRef<Press | null>(null);
  const wheelRest = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const rolling = useRef<{ label: string; gesture: Gesture<Camera> } | null>(null);
  const lastClick = useRef({ at: 0, x: 0, y: 0 });
  const [cssWidth, cssHeight, width, height] = [css.width, css.height, full.width, full.height];
  // The same object as long as it is the same place: what lies over the picture is not drawn again with each picture.
  const place = useMemo(
    () => placeOf({ width: cssWidth, height: cssHeight }, { width, height }, magnifier),
    [cssWidth, cssHeight, width, height, magnifier],
  );

  /** Shares of the picture under the pointer. */
  const shareOf = (event: { clientX: number; clientY: number }) => {
    const box = surround.current!.getBoundingClientRect();
    return {
      x: (event.clientX - box.left - place.left) / place.width,
      y: (event.clientY - box.top - place.top) / place.height,
    };
  };

  const wheel = useRef<(event: WheelEvent) => void>(() => {});
  wheel.current = (event) => {
    event.preventDefault();
    const step = -Math.sign(event.deltaY || event.deltaX);
    const box = surround.current!.getBoundingClientRect();
    if (event.ctrlKey || event.metaKey) {
      const [px, py] = [event.clientX - box.left, event.clientY - box.top];
      const next = magnified(css, full, magnifier, MAGNIFY_STEP ** step, px, py);
      workspace.setPane(number, { magnifier: next });
      say(next ? `Magnify ${Math.round(next.factor * 100)} %` : "Whole picture");
      return;
    }
    if (locked) {
      say(fixed ?? "");
      return;
    }
    const label = event.altKey ? "Zoom" : event.shiftKey ? "Dolly, framing kept" : "Dolly";
    if (rolling.current?.label !== label || rolling.current.gesture.isOver())
      rolling.current = { label, gesture: workspace.beginCamera(number, label) };
    const { gesture } = rolling.current;
    const before = workspace.cameraOf(number);
    const moved = { Zoom: zoom, Dolly: dolly, "Dolly, framing kept": dollyFramed }[label];
    const after = moved(before, WHEEL_STEP ** (event.altKey ? step : -step));
    gesture.preview(after);
    const [lens, away] = [`${after.focal_length.toFixed(0)} mm`, `${reach(after).toFixed(3)} m`];
    say(
      event.altKey
        ? `Zoom ${lens}`
        : event.shiftKey
          ? `Dolly, framing kept: ${away}, ${lens}`
          : `Dolly ${away}`,
    );
    clearTimeout(wheelRest.current);
    wheelRest.current = setTimeout(() => gesture.commit(), WHEEL_REST_MS);
  };
  // React listens to wheel events passively; the page must not scroll with the picture.
  useEffect(() => {
    const target = surround.current;
    if (!target) return;
    const onWheel = (event: WheelEvent) => wheel.current(event);
    target.addEventListener("wheel", onWheel, { passive: false });
    return () => target.removeEventListener("wheel", onWheel);
  }, [surround]);

  /** Of a pointer about the middle of the picture, clockwise: it is turned as a sheet under the hand. */
  const angleOf = ({ x, y }: { x: number; y: number }) => {
    const box = surround.current!.getBoundingClientRect();
    return Math.atan2(
      y - box.top - place.top - place.height / 2,
      x - box.left - place.left - place.width / 2,
    );
  };

  const movedCamera = (event: React.PointerEvent, from: Press): Camera => {
    const right = (event.clientX - from.x) / place.width;
    const down = (event.clientY - from.y) / place.width;
    const [turn, rise] = [-right * ORBIT_RADIANS_A_PICTURE, down * ORBIT_RADIANS_A_PICTURE];
    const about = from.about ?? (from.camera.target as Vector);
    switch (from.what) {
      case "pan":
        return pan(from.camera, -right, down);
      case "roll":
        return roll(from.camera, angleOf(from) - angleOf({ x: event.clientX, y: event.clientY }));
      case "walk":
        return lookAround(from.camera, turn / LOOK_SLOWER, -rise / LOOK_SLOWER);
    }
    return turning.horizon === "free"
      ? tumble(from.camera, about, turn, rise)
      : orbitAbout(from.camera, about, turn, rise);
  };

  /** Turn about what is pressed from when it is known; what was turned before that stays. */
  const findPivot = async (from: Press, share: { x: number; y: number }) => {
    const found = await workspace.pick(number, share.x, share.y);
    if (!found || press.current !== from) return;
    from.about = found.position as Vector;
    from.camera = workspace.cameraOf(number);
    [from.x, from.y] = [from.last.x, from.last.y];
  };

  const rectangleBetween = (event: React.PointerEvent, from: Press): Loupe => {
    const a = shareOf({ clientX: from.x, clientY: from.y });
    const b = shareOf(event);
    const within = (v: number) => Math.min(Math.max(v, 0), 1);
    const [left, right] = [Math.min(a.x, b.x), Math.max(a.x, b.x)].map(within) as [number, number];
    const [top, bottom] = [Math.min(a.y, b.y), Math.max(a.y, b.y)].map(within) as [number, number];
    return [left, top, right, bottom];
  };

  const whatIsPressed = (event: React.PointerEvent): Press["what"] => {
    const { tool } = workspace.getState();
    if (tool === "walk" && !locked) return event.button === 0 && !event.shiftKey ? "walk" : "pan";
    if (event.button === 0 && tool !== "camera" && tool !== "walk") return tool;
    if (event.button === 0 && (event.ctrlKey || event.metaKey)) return "area";
    if (event.button === 0 && event.altKey && !locked) return "roll";
    const shifts = event.button !== 0 || event.shiftKey;
    if (magnifier && !shifts) return "shift";
    if (locked) return "locked";
    return shifts ? "pan" : "orbit";
  };

  const onPointerDown = (event: React.PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    workspace.set({ active: number });
    const what = whatIsPressed(event);
    if (isLightTool(what)) {
      const share = shareOf(event);
      lightHand.press(what, share.x, share.y);
    }
    press.current = {
      x: event.clientX,
      y: event.clientY,
      last: { x: event.clientX, y: event.clientY },
      camera: workspace.cameraOf(number),
      what,
      about: null,
      gesture: null,
      menu: event.button === 2,
      moved: false,
    };
    if (what === "orbit" && turning.about === "pressed") void findPivot(press.current, shareOf(event));
  };

  const onPointerMove = (event: React.PointerEvent) => {
    const from = press.current;
    if (!from) return;
    from.moved ||= Math.hypot(event.clientX - from.x, event.clientY - from.y) > CLICK_PIXELS;
    if (!from.moved) return;
    const by = { x: event.clientX - from.last.x, y: event.clientY - from.last.y };
    from.last = { x: event.clientX, y: event.clientY };
    if (from.what === "loupe") setDrawn(rectangleBetween(event, from));
    else if (from.what === "area") setArea(rectangleBetween(event, from));
    else if (from.what === "shift") {
      const held = workspace.getState().panes[number]?.magnifier;
      if (held) workspace.setPane(number, { magnifier: shifted(full, held, by.x, by.y) });
    } else if (from.what === "locked") say(fixed ?? "");
    else if (isLightTool(from.what)) {
      const share = shareOf(event);
      lightHand.drag(share.x, share.y);
    } else if (from.what === "focus") {
      const start = shareOf({ clientX: from.x, clientY: from.y });
      const end = shareOf(event);
      setSpan([start.x, start.y, end.x, end.y]);
    } else if (from.what !== "stick") {
      from.gesture ??= workspace.beginCamera(number, LABELS[from.what] ?? "Orbit");
      from.gesture.preview(movedCamera(event, from));
    }
  };

  const onPointerUp = (event: React.PointerEvent) => {
    const from = press.current;
    press.current = null;
    setDrawn(null);
    setArea(null);
    setSpan(null);
    if (!from) return;
    const share = shareOf(event);
    if (from.menu && !from.moved) {
      setMenu({ left: event.clientX, top: event.clientY, ...share });
      return;
    }
    if (isLightTool(from.what)) {
      lightHand.letGo();
      return;
    }
    if (from.what === "loupe") {
      const loupe = rectangleBetween(event, from);
      const large = loupe[2] - loupe[0] > LEAST_LOUPE && loupe[3] - loupe[1] > LEAST_LOUPE;
      workspace.setPane(number, { loupe: from.moved && large ? loupe : null });
      workspace.set({ tool: "camera" });
      return;
    }
    if (from.what === "area" && from.moved) {
      selectWithin(rectangleBetween(event, from), event.shiftKey);
      return;
    }
    if (from.what === "focus") {
      workspace.set({ tool: "camera" });
      const start = shareOf({ clientX: from.x, clientY: from.y });
      const said = from.moved
        ? focusBetween(workspace, number, start, share)
        : focusAt(workspace, number, share);
      void said.then(say);
      return;
    }
    if (from.what === "stick") {
      stickAt(share.x, share.y);
      return;
    }
    if (!from.moved) click(share.x, share.y, event);
    if (from.what === "area") workspace.set({ tool: "camera" });
    from.gesture?.preview(movedCamera(event, from));
    from.gesture?.commit();
  };

  const selectWithin = async (edges: Loupe, adds: boolean) => {
    workspace.set({ tool: "camera" });
    const found = await workspace.partsWithin(number, edges);
    const { selection } = workspace.getState();
    workspace.select(adds ? [...new Set([...selection, ...found])] : found);
    say(found.length === 1 ? "1 part" : `${found.length} parts`);
  };

  const stickAt = async (x: number, y: number) => {
    workspace.set({ tool: "camera" });
    const isThere = await workspace.stick(number, x, y, workspace.getState().sticking);
    if (!isThere) say("There is no part there");
  };

  const click = async (x: number, y: number, event: React.PointerEvent) => {
    const adds = event.ctrlKey || event.metaKey || event.shiftKey;
    const { at, x: lastX, y: lastY } = lastClick.current;
    const near = Math.hypot(event.clientX - lastX, event.clientY - lastY) <= CLICK_PIXELS;
    const again = !adds && near && event.timeStamp - at < DOUBLE_CLICK_MS;
    // One that adds to the selection is never the first of two.
    lastClick.current = { at: adds ? 0 : event.timeStamp, x: event.clientX, y: event.clientY };
    const found = await workspace.pick(number, x, y);
    if (again) {
      if (found?.part && !locked) await workspace.frameParts(number, [found.part]);
      return;
    }
    if (found?.part) {
      workspace.select([found.part], adds ? "add" : "only");
    } else if (!adds) workspace.select([]);
  };

  return {
    place,
    saying,
    drawn,
    area,
    span,
    menu,
    closeMenu: () => setMenu(null),
    handlers: {
      onPointerDown,
      onPointerMove,
      onPointerUp,
      onPointerCancel: () => {
        press.current?.gesture?.cancel();
        lightHand.cancel();
        press.current = null;
        setDrawn(null);
        setArea(null);
        setSpan(null);
      },
      onContextMenu: (event) => event.preventDefault(),
    },
  };
}
