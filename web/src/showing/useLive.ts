/**
 * The live picture of a page: asked for when it is turned away from its shot, and shown when it comes. Until then, and
 * when there is no room for it, the page shows the prepared picture that is nearest.
 */
import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { FromVisitor, ToVisitor } from "../api/types";
import type { Frame } from "../socket/frame";
import { type Around, isFromTheShot } from "./choosing";
import { type Line, written } from "./source";

export type LiveState = Extract<ToVisitor, { type: "live" }>["state"] | "off";
/** Bounds of a picture in pixels, as the protocol has them. */
const [SMALLEST, LARGEST] = [64, 1280];

interface Wanted {
  line: RefObject<Line | null>;
  stage: RefObject<HTMLDivElement | null>;
  shown: { slide: number; around: Around; beside: number | null };
  /** Of whoever leads: serial of the first live picture of what they show, null for none. Undefined when nobody does. */
  ledFrom: number | null | undefined;
  mayTurn: boolean;
  leads: boolean;
}

/** A slide that is looked at live, and the serial of the first look at it: earlier pictures show another one. */
interface LookedAt {
  slide: number;
  from: number;
}

/** Pixels of a picture that fills an element, with its shape. */
function sizeOf(element: HTMLElement): { width: number; height: number } {
  const [wide, high] = [element.clientWidth * devicePixelRatio, element.clientHeight * devicePixelRatio];
  const share = Math.min(1, LARGEST / Math.max(wide, high, 1));
  const within = (side: number) => Math.max(SMALLEST, Math.round(side * share));
  return { width: within(wide), height: within(high) };
}

export function useLive({ line, stage, shown, ledFrom, mayTurn, leads }: Wanted) {
  const [frame, setFrame] = useState<Frame | null>(null);
  const [state, setState] = useState<LiveState>("off");
  const [looked, setLooked] = useState<LookedAt | null>(null);
  const latest = useRef<{ looked: LookedAt | null; serial: number; said: FromVisitor[] }>({
    looked,
    serial: 0,
    said: [],
  });
  const { slide, around, beside } = shown;
  const isLed = ledFrom !== undefined;
  const wants = mayTurn && !isLed && beside === null && !isFromTheShot(around) && !written();

  useEffect(() => {
    const said: FromVisitor[] = [];
    const before = latest.current.looked;
    let now: LookedAt | null = null;
    if (wants && stage.current) {
      latest.current.serial += 1;
      const { serial } = latest.current;
      now = before?.slide === slide ? before : { slide, from: serial };
      said.push({ type: "look", slide, around, serial, ...sizeOf(stage.current) });
    } else if (before) {
      said.push({ type: "rest" });
      setState("off");
    }
    if (leads) said.push({ type: "lead", slide, around, beside, live: now?.from ?? null });
    for (const message of said) line.current?.send(message);
    latest.current = { ...latest.current, looked: now, said };
    setLooked(now);
  }, [line, stage, wants, slide, around, beside, leads]);

  /** A line that is open again knows nothing of what was said before. */
  const back = useCallback(() => {
    for (const message of latest.current.said) line.current?.send(message);
  }, [line]);
  const take = useMemo(() => ({ frame: setFrame, state: setState }), []);
  const from = isLed ? ledFrom : looked?.slide === slide ? looked.from : null;
  const isOf = frame !== null && from !== null && frame.serial >= from && (isLed || wants);
  return { frame: isOf ? frame : null, state, take, back };
}
