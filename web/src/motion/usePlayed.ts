/** The time line played at its speed, in coarse pictures; where it is stopped, the moment is kept. */
import { useCallback, useEffect, useRef, useState } from "react";
import type { Motion } from "../api/types";
import { useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { replace } from "../store/patch";

export const MOMENT = "/shutter/time";
/** Pictures are asked for no more often than that: the host shows the newest of what waits. */
const SHORTEST_STEP_MS = 40;
const rounded = (time: number) => Number(time.toFixed(4));

/** Frames of a whole time line, as they are printed. */
export const framesOf = ({ seconds, rate }: Motion) => Math.max(1, Math.round(seconds * rate));

interface Played {
  gesture: Gesture;
  timer: ReturnType<typeof setInterval>;
}

/** The moment of the frame that is shown so long after `from`; null when a time line that ends is over. */
export function momentAfter(passed: number, from: number, { seconds, rate, loop }: Motion): number | null {
  const at = from + passed;
  if (!loop && at >= seconds) return null;
  return rounded(Math.floor((at % seconds) * rate + 1e-6) / rate);
}

export function usePlayed() {
  const workspace = useWorkspace();
  const [isPlaying, setIsPlaying] = useState(false);
  const played = useRef<Played | null>(null);

  const stop = useCallback(() => {
    const { current } = played;
    played.current = null;
    setIsPlaying(false);
    if (!current) return;
    clearInterval(current.timer);
    current.gesture.commit();
  }, []);
  useEffect(() => stop, [stop]);

  const play = () => {
    const { motion, shutter } = workspace.getState().scene;
    const from = shutter.time >= motion.seconds - 1 / motion.rate ? 0 : Math.max(shutter.time, 0);
    const gesture = workspace.begin("Moment");
    const began = performance.now();
    let shown = -1;
    const step = () => {
      if (gesture.isOver()) return stop(); // anything else that is taken in hand ends it
      const moment = momentAfter((performance.now() - began) / 1000, from, motion);
      if (moment === null) return stop();
      if (moment !== shown) gesture.preview([replace(MOMENT, moment)]);
      shown = moment;
    };
    const every = Math.max(1000 / motion.rate, SHORTEST_STEP_MS);
    played.current = { gesture, timer: setInterval(step, every) };
    setIsPlaying(true);
  };

  return { isPlaying, toggle: () => (isPlaying ? stop() : play()) };
}
