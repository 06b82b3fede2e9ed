/** The meter in the picture: what it reads under the hand, at the places that it was held at, and their ratio. */
import Box from "@mui/material/Box";
import { type RefObject, useEffect, useState } from "react";
import type { Frame } from "../socket/frame";
import { useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";
import type { Place } from "./layout";
import { projection } from "./projection";
import { type Reading, ratioOf, readingOf } from "./readings";
import type { Vector } from "./vectors";

const REST_MS = 120;
const NAMES = ["A", "B"];
const NONE: readonly Vector[] = [];
const TAG = {
  position: "absolute",
  px: 0.9,
  py: 0.3,
  borderRadius: 1,
  bgcolor: "rgba(23,23,23,0.84)",
  fontSize: 11.5,
  whiteSpace: "nowrap",
  pointerEvents: "none",
} as const;

interface Props {
  number: PaneNumber;
  place: Place;
  frame: Frame;
  surround: RefObject<HTMLDivElement | null>;
}

export function MeterMarks({ number, place, frame, surround }: Props) {
  const tool = useSlice((s) => s.tool);
  const points = useSlice((s) => (s.metered.pane === number ? s.metered.points : NONE));
  if (tool !== "meter") return null;
  const lens = projection(frame.camera, frame.full.width / frame.full.height);
  const marks = points.map((point) => lens.project(point)).filter(({ depth }) => depth > 0);
  return (
    <>
      <Compared number={number} place={place} marks={marks} revision={frame.samples} />
      <UnderTheHand number={number} place={place} surround={surround} />
    </>
  );
}

interface ComparedProps {
  number: PaneNumber;
  place: Place;
  marks: { x: number; y: number }[];
  /** Changes with the picture. */
  revision: number;
}

function Compared({ number, place, marks, revision }: ComparedProps) {
  const workspace = useWorkspace();
  const scene = useSlice((s) => s.committed);
  const [known, setKnown] = useState<{ of: object; read: (Reading | null)[] } | null>(null);
  const at = JSON.stringify(marks.map(({ x, y }) => [x, y]));
  const isCoarse = revision < 1;
  useEffect(() => {
    if (isCoarse) return;
    let isOver = false;
    const rest = setTimeout(async () => {
      const found = await Promise.all(
        (JSON.parse(at) as [number, number][]).map(([x, y]) =>
          workspace.askHost<Reading>("meter", number, { x, y }),
        ),
      );
      if (!isOver) setKnown({ of: scene, read: found });
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, number, at, scene, isCoarse]);
  // What was read in another light is worth nothing.
  const read = known?.of === scene ? known.read : [];
  const [a, b] = read;
  const shown = marks.map(({ x, y }) => ({
    left: place.left + x * place.width,
    top: place.top + y * place.height,
  }));
  const onTheLeft = shown.length === 2 && shown[0]!.left > shown[1]!.left ? 1 : 0;
  const ratios = a && b ? [ratioOf(a.luminance, b.luminance), ratioOf(a.illuminance, b.illuminance)] : [];
  return (
    <>
      {shown.map(({ left, top }, i) => (
        <Box key={NAMES[i]} data-testid={`meter-${NAMES[i]}`}>
          <Box
            sx={{
              position: "absolute",
              width: 12,
              height: 12,
              border: "2px solid",
              borderColor: "secondary.main",
              borderRadius: "50%",
              pointerEvents: "none",
            }}
            style={{ left: left - 6, top: top - 6 }}
          />
          <Box
            sx={TAG}
            // Of two tags one lies to the left of its mark, so that they do not meet.
            style={
              shown.length === 2 && i === onTheLeft
                ? { left: left - 10, top: top - 22, transform: "translateX(-100%)" }
                : { left: left + 10, top: top - 22 }
            }
          >
            {NAMES[i]} {read[i]?.luminance != null ? readingOf(read[i]) : "…"}
          </Box>
        </Box>
      ))}
      {shown.length === 2 && ratios[0] && (
        <Box
          sx={TAG}
          data-testid="meter-ratio"
          style={{
            left: (shown[0]!.left + shown[1]!.left) / 2,
            top: Math.max(shown[0]!.top, shown[1]!.top) + 14,
            transform: "translateX(-50%)",
          }}
        >
          <div>Luminance {ratios[0]}</div>
          {ratios[1] && <div>Illuminance {ratios[1]}</div>}
        </Box>
      )}
    </>
  );
}

/** The reading beside the pointer, when it rests. */
function UnderTheHand({ number, place, surround }: Omit<Props, "frame">) {
  const workspace = useWorkspace();
  const [read, setRead] = useState<{ left: number; top: number; text: string } | null>(null);
  const { left, top, width, height } = place;
  useEffect(() => {
    const box = surround.current;
    if (!box) return;
    let rest: ReturnType<typeof setTimeout> | undefined;
    let asked = 0;
    const move = (event: PointerEvent) => {
      setRead(null);
      clearTimeout(rest);
      const mine = ++asked;
      const corner = box.getBoundingClientRect();
      const [px, py] = [event.clientX - corner.left, event.clientY - corner.top];
      const [x, y] = [(px - left) / width, (py - top) / height];
      if (x < 0 || x >= 1 || y < 0 || y >= 1) return;
      rest = setTimeout(async () => {
        const found = await workspace.askHost<Reading>("meter", number, { x, y });
        if (mine === asked && found && found.luminance !== null)
          setRead({ left: px, top: py, text: readingOf(found) });
      }, REST_MS);
    };
    const leave = () => {
      asked++;
      clearTimeout(rest);
      setRead(null);
    };
    box.addEventListener("pointermove", move);
    box.addEventListener("pointerleave", leave);
    return () => {
      leave();
      box.removeEventListener("pointermove", move);
      box.removeEventListener("pointerleave", leave);
    };
  }, [workspace, number, surround, left, top, width, height]);
  if (!read) return null;
  return (
    <Box sx={TAG} data-testid="meter-here" style={{ left: read.left + 14, top: read.top + 12 }}>
      {read.text}
    </Box>
  );
}
