/** What a page shows, and who says so: its visitor, or whoever leads. */
import { useCallback, useEffect, useRef, useState } from "react";
import type { SeenShowing, SeenSlide, ToVisitor } from "../api/types";
import { type Aspect, switched } from "./choosing";
import { Line, server, written } from "./source";

const PREPARING_MS = 4000;

export interface Shown {
  slide: number;
  turn: number;
  /** A second slide, beside the first. */
  beside: number | null;
}

export interface Seen {
  showing: SeenShowing;
  /** Undefined before a picture is made. */
  slide: SeenSlide | undefined;
  beside: SeenSlide | undefined;
  turn: number;
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
  const [own, setOwn] = useState<Shown>({ slide: first.slides[0]?.id ?? 0, turn: 0, beside: null });
  const [led, setLed] = useState<Shown | null>(null);
  const [follows, setFollows] = useState(true);
  const [leads, setLeads] = useState(false);
  const [viewers, setViewers] = useState(0);
  const line = useRef<Line | null>(null);
  const latest = useRef({ led, own, leads });
  latest.current = { led, own, leads };

  const reload = useCallback(() => server.again(first.id).then(setShowing, onOver), [first.id, onOver]);
  const isMade = showing.slides.length >= showing.wanted;
  useEffect(() => {
    if (written() || isMade) return;
    const timer = setInterval(() => void reload(), PREPARING_MS);
    return () => clearInterval(timer);
  }, [isMade, reload]);

  useEffect(() => {
    if (written()) return;
    const hear = (message: ToVisitor) => {
      if (message.type === "viewers") return setViewers(message.count);
      if (message.type === "led") {
        setLeads(false);
        return setLed(message);
      }
      // What was shown last stays: the audience keeps its picture.
      if (latest.current.led) setOwn(latest.current.led);
      setLed(null);
    };
    const back = () => latest.current.leads && opened.send({ type: "lead", ...latest.current.own });
    const opened: Line = new Line(first.id, hear, back, onOver);
    line.current = opened;
    return () => opened.close();
  }, [first.id, onOver]);

  const isLed = led !== null && follows && !leads;
  const now = isLed ? led : own;
  const find = (id: number | null) => showing.slides.find((slide) => slide.id === id);
  const slide = find(now.slide) ?? showing.slides[0];
  const show = (change: Partial<Shown>) => {
    const next = { ...now, slide: slide?.id ?? 0, ...change };
    setOwn(next);
    if (isLed) setFollows(false);
    if (leads) line.current?.send({ type: "lead", ...next });
  };
  return {
    showing,
    slide,
    beside: find(now.beside),
    turn: now.turn,
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
      setLeads(wanted);
      line.current?.send(wanted ? { type: "lead", ...now, slide: slide?.id ?? 0 } : { type: "release" });
    },
    reload,
  };
}
