/** The pictures of takes: all beside each other, or of two one over the other, in turns, or as a map of their difference. */
import Box from "@mui/material/Box";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { type PointerEvent, useEffect, useState, type WheelEvent } from "react";
import { type DifferenceKind, takes as kept } from "../api/takes";
import type { TakeEntry } from "../api/types";
import { hourOf } from "./keeping";
import { nameOf } from "./TakeCard";

export type Way = "beside" | "wipe" | "blink" | DifferenceKind;
const BLINK_MS = 700;
const [STEP, MOST] = [1.2, 32];

/** How the pictures are magnified, together: times, and how far they are moved in their own widths and heights. */
interface Window {
  times: number;
  x: number;
  y: number;
}
const WHOLE: Window = { times: 1, x: 0, y: 0 };

interface Props {
  takes: readonly [TakeEntry, TakeEntry, ...TakeEntry[]];
  /** That which the first is held against. */
  second: TakeEntry;
  way: Way;
}

export function TwoPictures({ takes, second, way }: Props) {
  const [first] = takes;
  const [window, setWindow] = useState(WHOLE);
  const onWheel = (event: WheelEvent) =>
    setWindow((now) => {
      const times = Math.min(MOST, Math.max(1, now.times * (event.deltaY < 0 ? STEP : 1 / STEP)));
      return times === 1 ? WHOLE : { ...now, times };
    });
  const onDrag = (event: PointerEvent) => {
    if (event.buttons !== 1 || window.times === 1) return;
    const { clientWidth, clientHeight } = event.currentTarget as HTMLElement;
    setWindow((now) => ({
      ...now,
      x: now.x + event.movementX / clientWidth,
      y: now.y + event.movementY / clientHeight,
    }));
  };
  const shown = { window, onWheel, onDrag };
  return (
    <Box sx={{ flex: 1, minWidth: 0, display: "flex", flexDirection: "column", p: 1.5, gap: 1 }}>
      {way === "beside" ? (
        <Box
          sx={{
            flex: 1,
            minHeight: 0,
            display: "grid",
            // Two wide ones are larger one above the other.
            gridTemplateColumns:
              takes.length > 2 ? "1fr 1fr" : first.width > first.height ? "1fr" : "1fr 1fr",
            gridAutoRows: "minmax(0, 1fr)",
            gap: 1,
          }}
        >
          {takes.map((take, place) => (
            <Box key={take.id} sx={{ position: "relative", display: "flex", minWidth: 0, minHeight: 0 }}>
              <Framed {...shown} layers={[{ take }]} />
              {takes.length > 2 && (
                <Typography
                  variant="caption"
                  sx={{ position: "absolute", left: 6, bottom: 4, px: 0.75, bgcolor: "rgba(23,23,23,0.7)" }}
                >
                  {place + 1} · {hourOf(take.created)} {take.shown}
                </Typography>
              )}
            </Box>
          ))}
        </Box>
      ) : way === "wipe" ? (
        <Wipe {...shown} first={first} second={second} />
      ) : way === "blink" ? (
        <Blink {...shown} first={first} second={second} />
      ) : (
        <Mapped {...shown} first={first} second={second} kind={way} />
      )}
    </Box>
  );
}

interface Shown {
  window: Window;
  onWheel: (event: WheelEvent) => void;
  onDrag: (event: PointerEvent) => void;
}
type Two = Shown & { first: TakeEntry; second: TakeEntry };

interface Layer {
  take?: TakeEntry;
  /** Another picture than that of a take. */
  picture?: string;
  /** What of it is seen, as CSS has it. */
  clip?: string;
  isHidden?: boolean;
}

function Framed({ layers, window, onWheel, onDrag }: Shown & { layers: Layer[] }) {
  return (
    <Box
      onWheel={onWheel}
      onPointerMove={onDrag}
      data-testid="compared"
      sx={{ flex: 1, minWidth: 0, minHeight: 0, position: "relative", overflow: "hidden", cursor: "grab" }}
    >
      {layers.map(({ take, picture, clip, isHidden }) => (
        <Box
          key={take?.id ?? "map"}
          sx={{ position: "absolute", inset: 0, clipPath: clip, visibility: isHidden ? "hidden" : "visible" }}
        >
          <Box
            component="img"
            src={picture ?? take?.picture}
            alt={take ? nameOf(take) : "Difference"}
            draggable={false}
            sx={{
              width: "100%",
              height: "100%",
              objectFit: "contain",
              transform: `translate(${100 * window.x}%, ${100 * window.y}%) scale(${window.times})`,
              imageRendering: window.times > 3 ? "pixelated" : "auto",
            }}
          />
        </Box>
      ))}
    </Box>
  );
}

function Wipe({ first, second, ...shown }: Two) {
  const [place, setPlace] = useState(50);
  const [angle, setAngle] = useState(0);
  return (
    <>
      <Framed {...shown} layers={[{ take: first }, { take: second, clip: half(place / 100, angle) }]} />
      <Box sx={{ display: "flex", gap: 3, px: 2 }}>
        <Labelled word="Place" value={place} range={[0, 100]} onChange={setPlace} />
        <Labelled word="Angle" value={angle} range={[-90, 90]} onChange={setAngle} />
      </Box>
    </>
  );
}

interface LabelledProps {
  word: string;
  value: number;
  range: [number, number];
  onChange: (value: number) => void;
}

function Labelled({ word, value, range: [min, max], onChange }: LabelledProps) {
  return (
    <Box sx={{ flex: 1, display: "flex", alignItems: "center", gap: 1.5 }}>
      <Typography variant="caption">{word}</Typography>
      <Slider
        value={value}
        min={min}
        max={max}
        onChange={(_, next) => onChange(next as number)}
        aria-label={`${word} of the wipe`}
      />
    </Box>
  );
}

/** The half of a frame to the right of a line through a place at an angle [degrees], as a polygon. */
export function half(place: number, angle: number): string {
  const turn = (angle * Math.PI) / 180;
  const [along, beside] = [
    [Math.sin(turn), Math.cos(turn)],
    [Math.cos(turn), -Math.sin(turn)],
  ] as const;
  const far = 3;
  // The line goes from one corner to the other, whatever its angle.
  const reach = Math.abs(beside[0]) / 2 + Math.abs(beside[1]) / 2;
  const shift = (2 * place - 1) * reach;
  const [x, y] = [0.5 + shift * beside[0], 0.5 + shift * beside[1]];
  const corner = (s: number, t: number) =>
    `${(100 * (x + s * along[0] + t * beside[0])).toFixed(2)}% ${(100 * (y + s * along[1] + t * beside[1])).toFixed(2)}%`;
  return `polygon(${[corner(-far, 0), corner(far, 0), corner(far, far), corner(-far, far)].join(", ")})`;
}

function Blink({ first, second, ...shown }: Two) {
  const [isSecond, setIsSecond] = useState(false);
  useEffect(() => {
    const timer = setInterval(() => setIsSecond((now) => !now), BLINK_MS);
    return () => clearInterval(timer);
  }, []);
  return <Framed {...shown} layers={[{ take: first }, { take: second, isHidden: !isSecond }]} />;
}

function Mapped({ first, second, kind, ...shown }: Two & { kind: DifferenceKind }) {
  const found = useQuery({
    queryKey: ["difference", first.id, second.id, kind],
    queryFn: () => kept.difference(first.id, second.id, kind),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (found.error) return <Typography variant="body2">{found.error.message}</Typography>;
  if (!found.data) return <Typography variant="body2">The difference is being made …</Typography>;
  const { picture, mean, worst, unit, ticks } = found.data;
  return (
    <>
      <Framed {...shown} layers={[{ picture }]} />
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5 }} data-testid="scale">
        {ticks.map(([value, color]) => (
          <Box key={value} sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
            <Box sx={{ width: 14, height: 14, borderRadius: 0.5, bgcolor: color }} />
            <Typography variant="caption">{value}</Typography>
          </Box>
        ))}
        <Typography variant="caption" color="textSecondary" sx={{ ml: "auto" }}>
          {unit && `${unit}: `}mean {mean.toPrecision(2)}, worst {worst.toPrecision(2)}
        </Typography>
      </Box>
    </>
  );
}
