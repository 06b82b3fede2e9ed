/** Dropping things from the shelf onto a picture: it shows at once what a drop would do. */
import { useRef } from "react";
import { type Carried, inHand } from "../store/carried";
import { useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import type { PaneNumber } from "../store/panes";

/** CSS pixels that the pointer has to move before it is asked again what lies under it. */
const STEP = 3;
/** Nothing has been asked yet; null is the open ground. */
const UNKNOWN = Symbol("unknown");

export function useDrop(number: PaneNumber) {
  const workspace = useWorkspace();
  const over = useRef<string | null | typeof UNKNOWN>(UNKNOWN);
  /** Whether it would go onto all that wear the same. */
  const every = useRef(false);
  /** What the drop would do, while the thing is over the picture. */
  const gesture = useRef<Gesture | null>(null);
  const asked = useRef({ x: Number.NaN, y: Number.NaN, waiting: false });

  const forget = () => {
    over.current = UNKNOWN;
    asked.current = { x: Number.NaN, y: Number.NaN, waiting: false };
  };

  /** The parts that a drop would reach: a part of the selection stands for all of it, with Alt for all that wear the same. */
  const reached = (part: string | null, isEvery: boolean) => {
    const { selection, committed } = workspace.getState();
    if (part === null) return [];
    if (isEvery) {
      const worn = committed.parts[part]?.material;
      return Object.keys(committed.parts).filter((key) => committed.parts[key]!.material === worn);
    }
    return selection.includes(part) ? selection : [part];
  };

  const labelOf = (item: Carried, parts: string[]) => {
    const { scene } = workspace.getState();
    return item.label(parts.map((key) => scene.parts[key]?.name ?? key).join(", "));
  };

  const partUnder = async (event: React.DragEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = (event.clientX - box.left) / box.width;
    const y = (event.clientY - box.top) / box.height;
    return (await workspace.pick(number, x, y))?.part ?? null;
  };

  const show = (part: string | null, isEvery: boolean) => {
    const item = inHand();
    if (!item || (part === over.current && isEvery === every.current)) return;
    over.current = part;
    every.current = isEvery;
    const parts = reached(part, isEvery);
    gesture.current?.cancel();
    if (item.onPart && parts.length === 0) return;
    gesture.current = workspace.begin(labelOf(item, parts));
    gesture.current.preview(item.patch(workspace.getState().committed, parts));
  };

  return {
    onDragOver: async (event: React.DragEvent) => {
      const item = inHand();
      if (!item) return;
      event.preventDefault();
      event.dataTransfer.dropEffect = "copy";
      if (!item.onPart) return show(null, false);
      if (event.altKey !== every.current && typeof over.current === "string")
        return show(over.current, event.altKey);
      const last = asked.current;
      if (last.waiting || Math.hypot(event.clientX - last.x, event.clientY - last.y) < STEP) return;
      const question = { x: event.clientX, y: event.clientY, waiting: true };
      asked.current = question;
      const part = await partUnder(event);
      // The pointer may have left, or let go, while the answer was on its way.
      if (asked.current === question) {
        question.waiting = false;
        show(part, event.altKey);
      }
    },
    onDragLeave: () => {
      if (!inHand()) return;
      forget();
      gesture.current?.cancel();
    },
    onDrop: async (event: React.DragEvent) => {
      const item = inHand();
      if (!item) return;
      event.preventDefault();
      forget();
      const part = item.onPart ? await partUnder(event) : null;
      const parts = reached(part, event.altKey);
      gesture.current?.cancel();
      if (item.onPart && parts.length === 0) return;
      workspace.commit(item.patch(workspace.getState().committed, parts), labelOf(item, parts));
      if (part !== null && parts.length === 1) workspace.select([part]);
    },
  };
}
