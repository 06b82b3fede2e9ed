/** What a page shows, and who says so: its visitor, or whoever leads. */
import { type RefObject, useCallback, useEffect, useRef, useState } from "react";
import type { SeenShowing, SeenSlide, ToVisitor } from "../api/types";
import type { Frame } from "../socket/frame";
import { type Around, type Aspect, FROM_THE_SHOT, switched } from "./choosing";
import { Line, server, written } from "./source";
import { type LiveState, useLive } from "./useLive";

const PREPARING_MS = 4000;

export interface Shown {
  slide: number;
  around: Around;
  /** A second slide, beside the first. */
  beside: number | null;
}
type Led = Shown & { live: number | null };

export interface Seen {
  showing: SeenShowing;
  /** Undefined before a picture is made. */
  slide: SeenSlide | undefined;
  beside: SeenSlide | undefined;
  around: Around;
  /** The live picture of it, when there is one. */
  frame: Frame | null;
  live: LiveState;
  /** The element that the picture fills. */
  stage: RefObject<HTMLDivElement | null>;
  /** Whoever leads shows this: what the visitor would look at waits. */
  isLed: boolean;
  /** Somebody leads, whether it is followed or not. */
  isThereALead: boolean;
  leads: boolean;
  viewers: number;
  show: (change: Partial<Shown>) => void;
  switchTo: (aspect: Aspect, name: string, second: boolean) => void;
  follow: (follows: boolean) => void;
  lead: (leads: boolean) => void;
  reload: () => Promise<void>;
}

export function useSeen(first: SeenShowing, onOver: () => void): Seen {
  const [showing, setShowing] = useState(first);
  const [own, setOwn] = useState<Shown>({
    slide: first.slides[0]?.id ?? 0,
    around: FROM_THE_SHOT,
    beside: null,
  });
  const [led, setLed] = useState<Led | null>(null);
  const [follows, setFollows] = useState(true);
  const [leads, setLeads] = useState(false);
  const [viewers, setViewers] = useState(0);
  const line = useRef<Line | null>(null);
  const stage = useRef<HTMLDivElement>(null);
  const latest = useRef(led);
  latest.current = led;

  const reload = useCallback(() => server.again(first.id).then(setShowing, onOver), [first.id, onOver]);
  const isMade = showing.slides.length >= showing.wanted;
  useEffect(() => {
    if (written() || isMade) return;
    const timer = setInterval(() => void reload(), PREPARING_MS);
    return () => clearInterval(timer);
  }, [isMade, reload]);

  const isLed = led !== null && follows && !leads;
  const now = isLed ? led : own;
  const find = (id: number | null) => showing.slides.find((slide) => slide.id === id);
  const slide = find(now.slide) ?? showing.slides[0];
  const shown: Shown = { slide: slide?.id ?? 0, around: now.around, beside: now.beside };
  const live = useLive({
    line,
    stage,
    shown,
    ledFrom: isLed ? led.live : undefined,
    mayTurn: showing.rights.includes("live") || showing.may_lead,
    leads,
  });

  const { take, back } = live;
  useEffect(() => {
    if (written()) return;
    const hear = (message: ToVisitor) => {
      if (message.type === "viewers") return setViewers(message.count);
      if (message.type === "live") return take.state(message.state);
      if (message.type === "led") {
        setLeads(false);
        return setLed(message);
      }
      // What was shown last stays: the audience keeps its picture.
      if (latest.current) setOwn(latest.current);
      setLed(null);
    };
    const open = (again: boolean) => {
      back();
      if (again) void reload(); // what visitors may do, and what was said, may be another
    };
    const opened = new Line(first.id, hear, take.frame, open, onOver);
    line.current = opened;
    return () => opened.close();
  }, [first.id, onOver, take, back, reload]);

  const show = (change: Partial<Shown>) => {
    setOwn({ ...shown, ...change });
    if (isLed) setFollows(false);
  };
  return {
    showing,
    slide,
    beside: find(now.beside),
    around: now.around,
    frame: live.frame,
    live: live.state,
    stage,
    isLed,
    isThereALead: led !== null && !leads,
    leads,
    viewers,
    show,
    switchTo: (aspect, name, second) => {
      const of = second ? find(now.beside) : slide;
      if (!of) return;
      const found = switched(showing.slides, of, aspect, name).id;
      show(second ? { beside: found } : { slide: found });
    },
    follow: setFollows,
    lead: (wanted) => {
      if (wanted) setOwn(shown);
      else line.current?.send({ type: "release" });
      setLeads(wanted);
    },
    reload,
  };
}
