/** A day in seconds: from before sunrise to after sunset, in the picture; what it is stopped at is kept. */
import { useCallback, useEffect, useRef, useState } from "react";
import { useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { SHOT } from "../store/panes";
import { replace } from "../store/patch";
import type { Vector } from "../viewport/vectors";

const [STEP_MS, WHOLE_MS] = [150, 10_000];
/** Of unit directions: a little below the horizon still gives light. */
const DUSK = -0.1;

interface Played {
  gesture: Gesture;
  timer: ReturnType<typeof setInterval>;
}

export function useDayPlayed(): { isPlaying: boolean; toggle: () => void } {
  const workspace = useWorkspace();
  const [isPlaying, setIsPlaying] = useState(false);
  const played = useRef<Played | null>(null);

  const stop = useCallback((keeps: boolean) => {
    const { current } = played;
    played.current = null;
    setIsPlaying(false);
    if (!current) return;
    clearInterval(current.timer);
    if (keeps) current.gesture.commit();
    else current.gesture.cancel();
  }, []);
  useEffect(() => () => stop(false), [stop]);

  const play = async () => {
    const answer = await workspace.askHost<{ day: [number, Vector][] }>("sun_day", SHOT);
    const lit = (answer?.day ?? []).filter(([, direction]) => direction[1] > DUSK).map(([hour]) => hour);
    if (lit.length < 2) {
      workspace.notify({ severity: "info", text: "The sun does not rise there on this day." });
      return;
    }
    const [from, to] = [lit[0]!, lit[lit.length - 1]!];
    const gesture = workspace.begin("Hour");
    const began = Date.now();
    const step = () => {
      const share = (Date.now() - began) / WHOLE_MS;
      // Anything else that is taken in hand ends the day.
      if (gesture.isOver() || share > 1) stop(false);
      else gesture.preview([replace("/sky/place/hour", Number((from + (to - from) * share).toFixed(3)))]);
    };
    played.current = { gesture, timer: setInterval(step, STEP_MS) };
    setIsPlaying(true);
    step();
  };

  return { isPlaying, toggle: () => (isPlaying ? stop(true) : void play()) };
}
