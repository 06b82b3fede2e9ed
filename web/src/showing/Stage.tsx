/** The picture, or two with an edge between them that is moved; turned by dragging across it. */
import { type CSSProperties, type PointerEvent, useEffect, useRef, useState } from "react";
import type { SeenSlide } from "../api/types";
import { usePicture } from "../viewport/usePicture";
import {
  type Around,
  called,
  FROM_THE_SHOT,
  FURTHEST,
  HALF_TURN,
  isFromTheShot,
  MOST_RAISED,
  NEAREST,
  nearer,
  placeInRing,
  turnedBy,
} from "./choosing";
import type { LiveState } from "./useLive";
import type { Seen } from "./useSeen";

const WHEEL_STEP = 0.001;
const SAID: Record<LiveState, string> = {
  off: "",
  on: "",
  starting: "The exact picture is coming.",
  busy: "Prepared pictures: there is no room for an exact one just now.",
};

interface Props {
  seen: Seen;
  slide: SeenSlide;
  pin: readonly [number, number] | null;
  /** Takes the place of a pin, while one is wanted. */
  onPin: ((at: readonly [number, number]) => void) | null;
  /** In prepared pictures. */
  mayTurn: boolean;
  isLive: boolean;
}

export function Stage({ seen, slide, pin, onPin, mayTurn, isLive: mayLive }: Props) {
  const { beside, showing } = seen;
  const [edge, setEdge] = useState(0.5);
  const [size, setSize] = useState({ width: 16, height: 10 });
  const { around, stage } = seen;
  const canvas = useRef<HTMLCanvasElement>(null);
  /** Where the hand took hold: of the edge between two, or else of the asset. */
  const hand = useRef<{ at: readonly [number, number]; around: Around } | null>(null);
  const ring = slide.pictures.length;
  const isLive = mayLive && !beside;
  const turns = isLive || (mayTurn && ring > 1);
  usePicture(canvas, seen.frame);
  useEffect(() => {
    // The ring is fetched when it can be turned: a turn waits for nothing.
    for (const address of turns ? slide.pictures : []) new Image().src = address;
  }, [turns, slide]);
  const wheel = useRef<(event: WheelEvent) => void>(() => {});
  wheel.current = (event) => {
    if (!isLive) return;
    event.preventDefault();
    seen.show({ around: nearer(around, Math.exp(-event.deltaY * WHEEL_STEP)) });
  };
  useEffect(() => {
    // Heard by hand: only so can the page be kept from scrolling.
    const element = stage.current;
    const turn = (event: WheelEvent) => wheel.current(event);
    element?.addEventListener("wheel", turn, { passive: false });
    return () => element?.removeEventListener("wheel", turn);
  }, [stage]);

  const shareOf = (event: PointerEvent): readonly [number, number] => {
    const box = stage.current!.getBoundingClientRect();
    const share = (value: number) => Math.min(Math.max(value, 0), 1);
    return [share((event.clientX - box.left) / box.width), share((event.clientY - box.top) / box.height)];
  };
  const begin = (event: PointerEvent) => {
    if (onPin) return onPin(shareOf(event));
    if (!turns && !beside) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    hand.current = { at: shareOf(event), around };
    if (beside) setEdge(hand.current.at[0]);
  };
  const move = (event: PointerEvent) => {
    if (!hand.current) return;
    if (beside) return setEdge(shareOf(event)[0]);
    const [x, y] = shareOf(event);
    // A finger that goes down scrolls the page.
    const down = isLive && event.pointerType !== "touch" ? y - hand.current.at[1] : 0;
    seen.show({ around: turnedBy(hand.current.around, x - hand.current.at[0], down) });
  };
  const end = () => {
    hand.current = null;
  };
  const picture = (of: SeenSlide) => of.pictures[placeInRing(around, of.pictures.length)];
  const remarks = slide.comments.filter((each) => each.pin);
  return (
    <main>
      <div
        ref={stage}
        className={onPin ? "stage pinning" : turns || beside ? "stage turning" : "stage"}
        style={
          { aspectRatio: size.width / size.height, "--shape": size.width / size.height } as CSSProperties
        }
        onPointerDown={begin}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <img
          src={picture(slide)}
          alt={called(showing.slides, slide)}
          draggable={false}
          onLoad={({ currentTarget: { naturalWidth: width, naturalHeight: height } }) =>
            setSize({ width, height })
          }
        />
        {beside && (
          <>
            <img
              src={picture(beside)}
              alt={called(showing.slides, beside)}
              draggable={false}
              className="second"
              style={{ clipPath: `inset(0 0 0 ${100 * edge}%)` }}
            />
            <div className="edge" style={{ left: `${100 * edge}%` }} />
          </>
        )}
        {seen.frame && <canvas ref={canvas} data-testid="live" aria-hidden />}
        {isFromTheShot(around) &&
          remarks.map((each) => (
            <span
              key={each.id}
              className="pin"
              title={`${each.author}: ${each.text}`}
              style={{ left: `${100 * each.pin![0]}%`, top: `${100 * each.pin![1]}%` }}
            />
          ))}
        {pin && <span className="pin new" style={{ left: `${100 * pin[0]}%`, top: `${100 * pin[1]}%` }} />}
      </div>
      {beside && (
        <input
          type="range"
          aria-label="Edge between the two"
          min={0}
          max={1}
          step={0.005}
          value={edge}
          onChange={(event) => setEdge(Number(event.target.value))}
        />
      )}
      {turns && <Turning seen={seen} step={isLive ? 1 : 360 / ring} isLive={isLive} />}
    </main>
  );
}

/** What the hand does in the picture, for keys and fingers. */
function Turning({ seen, step, isLive }: { seen: Seen; step: number; isLive: boolean }) {
  const { around } = seen;
  const set = (change: Partial<Around>) => seen.show({ around: { ...around, ...change } });
  // To both sides of the shot.
  const turn = around.azimuth > HALF_TURN ? around.azimuth - 2 * HALF_TURN : around.azimuth;
  const shown = { ...around, azimuth: turn };
  const slider = (label: string, field: keyof Around, min: number, max: number, by: number) => (
    <label>
      {label}
      <input
        type="range"
        min={min}
        max={max}
        step={by}
        value={shown[field]}
        onChange={({ target }) => {
          const value = Number(target.value);
          set({ [field]: value < 0 && field === "azimuth" ? value + 2 * HALF_TURN : value });
        }}
      />
    </label>
  );
  return (
    <div className="turns">
      {slider("Turn", "azimuth", step - HALF_TURN, HALF_TURN, step)}
      {isLive && slider("Raise", "raised", -MOST_RAISED, MOST_RAISED, 1)}
      {isLive && slider("Nearer", "closer", FURTHEST, NEAREST, 0.01)}
      <button
        type="button"
        disabled={isFromTheShot(around)}
        onClick={() => seen.show({ around: FROM_THE_SHOT })}
      >
        Back to the view
      </button>
      <p role="status">{SAID[seen.live]}</p>
    </div>
  );
}
