/** The picture, or two with an edge between them that is moved; turned by dragging across it. */
import { type CSSProperties, type PointerEvent, useEffect, useRef, useState } from "react";
import type { SeenSlide } from "../api/types";
import { called, turnedBy } from "./choosing";
import type { Seen } from "./useSeen";

interface Props {
  seen: Seen;
  slide: SeenSlide;
  pin: readonly [number, number] | null;
  /** Takes the place of a pin, while one is wanted. */
  onPin: ((at: readonly [number, number]) => void) | null;
  mayTurn: boolean;
}

export function Stage({ seen, slide, pin, onPin, mayTurn }: Props) {
  const { beside, showing } = seen;
  const [edge, setEdge] = useState(0.5);
  const [size, setSize] = useState({ width: 16, height: 10 });
  const frame = useRef<HTMLDivElement>(null);
  /** Where the hand took hold: of the edge between two, or else of the asset. */
  const hand = useRef<{ at: number; turn: number } | null>(null);
  const ring = slide.pictures.length;
  const turns = mayTurn && ring > 1;
  useEffect(() => {
    // The ring is fetched when it can be turned: a turn waits for nothing.
    for (const address of turns ? slide.pictures : []) new Image().src = address;
  }, [turns, slide]);

  const shareOf = (event: PointerEvent): readonly [number, number] => {
    const box = frame.current!.getBoundingClientRect();
    const share = (value: number) => Math.min(Math.max(value, 0), 1);
    return [share((event.clientX - box.left) / box.width), share((event.clientY - box.top) / box.height)];
  };
  const begin = (event: PointerEvent) => {
    if (onPin) return onPin(shareOf(event));
    if (!turns && !beside) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    hand.current = { at: shareOf(event)[0], turn: seen.turn };
    if (beside) setEdge(hand.current.at);
  };
  const move = (event: PointerEvent) => {
    if (!hand.current) return;
    if (beside) return setEdge(shareOf(event)[0]);
    const turn = turnedBy(hand.current.turn, shareOf(event)[0] - hand.current.at, ring);
    if (turn !== seen.turn) seen.show({ turn });
  };
  const end = () => {
    hand.current = null;
  };
  const picture = (of: SeenSlide) => of.pictures[seen.turn] ?? of.pictures[0];
  const remarks = slide.comments.filter((each) => each.pin);
  return (
    <main>
      <div
        ref={frame}
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
        {remarks.map((each) => (
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
      {turns && (
        <input
          type="range"
          aria-label="Turn"
          min={0}
          max={ring - 1}
          value={seen.turn}
          onChange={(event) => seen.show({ turn: Number(event.target.value) })}
        />
      )}
    </main>
  );
}
