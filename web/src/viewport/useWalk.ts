/** Walking by the arrow keys while the tool is in hand: ahead and aside on the level, up and down; Shift runs. */

import { useEffect } from "react";
import type { Camera } from "../api/types";
import { whyFixed } from "../motion/fixed";
import { useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import type { PaneNumber } from "../store/panes";
import { reach, walk } from "./orbit";

/** Ahead, right, up. */
const WAYS: Record<string, readonly [number, number, number]> = {
  ArrowUp: [1, 0, 0],
  ArrowDown: [-1, 0, 0],
  ArrowLeft: [0, -1, 0],
  ArrowRight: [0, 1, 0],
  PageUp: [0, 0, 1],
  PageDown: [0, 0, -1],
};
/** Of the distance to what is looked at, each second: an asset of any size is crossed in as long. */
const PACE = 0.4;
const RUN = 3;
/** A hand that taps moves by as much at least. */
const LONGEST_FRAME_MS = 50;

export function useWalk(number: PaneNumber, say: (text: string) => void): void {
  const workspace = useWorkspace();
  const walks = useSlice((s) => s.tool === "walk" && s.active === number);
  useEffect(() => {
    if (!walks) return;
    const held = new Map<string, boolean>();
    let gesture: Gesture<Camera> | null = null;
    let last = 0;
    let pace = 0;
    let frame = 0;
    const step = (now: number) => {
      const seconds = Math.min(now - last, LONGEST_FRAME_MS) / 1000;
      last = now;
      const sum: [number, number, number] = [0, 0, 0];
      for (const [key, runs] of held)
        for (const axis of sum.keys()) sum[axis]! += WAYS[key]![axis]! * pace * seconds * (runs ? RUN : 1);
      gesture?.preview(walk(workspace.cameraOf(number), ...sum));
      frame = requestAnimationFrame(step);
    };
    const stop = () => {
      held.clear();
      cancelAnimationFrame(frame);
      gesture?.commit();
      gesture = null;
    };
    const down = (event: KeyboardEvent) => {
      if (!(event.key in WAYS) || isTyping(event.target)) return;
      event.preventDefault();
      event.stopPropagation();
      const fixed = whyFixed(workspace.getState(), number);
      if (fixed) {
        say(fixed);
        return;
      }
      held.set(event.key, event.shiftKey);
      if (gesture) return;
      gesture = workspace.beginCamera(number, "Walk");
      pace = PACE * reach(workspace.cameraOf(number));
      last = performance.now() - LONGEST_FRAME_MS;
      frame = requestAnimationFrame(step);
      say("Walk");
    };
    const up = (event: KeyboardEvent) => {
      if (held.delete(event.key) && held.size === 0) stop();
    };
    // Before the keys that turn the camera hear of it.
    window.addEventListener("keydown", down, { capture: true });
    window.addEventListener("keyup", up, { capture: true });
    window.addEventListener("blur", stop);
    return () => {
      window.removeEventListener("keydown", down, { capture: true });
      window.removeEventListener("keyup", up, { capture: true });
      window.removeEventListener("blur", stop);
      stop();
    };
  }, [workspace, walks, number, say]);
}

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement;
