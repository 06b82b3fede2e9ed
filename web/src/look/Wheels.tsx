/** Slope, offset and power of a colour decision, each a disc whose point leans it towards a colour, and its mean. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef } from "react";
import { Quantity, type QuantityField } from "../controls/Quantity";
import { useScene, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import { leaning, meanOf, placeOf, type Triple, withMean } from "./wheel";

interface Kind {
  name: "slope" | "offset" | "power";
  label: string;
  /**
   * The code of light is some seventeen stops long: a slope of 1.06 moves white by more than half a stop.
   * What the three numbers are when nothing is changed, by how much they lean at the edge, and the least of them. */
  plain: number;
  reach: number;
  least: number;
  most: number;
}

const KINDS: Kind[] = [
  { name: "offset", label: "Offset", plain: 0, reach: 0.05, least: -2, most: 0.25 },
  { name: "power", label: "Power", plain: 1, reach: 0.12, least: 0.05, most: 2 },
  { name: "slope", label: "Slope", plain: 1, reach: 0.06, least: 0, most: 2 },
];
const SIZE = 76;
const STEP = 0.04;

export function Wheels() {
  return (
    <Box sx={{ my: 0.75 }}>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, minmax(0, 1fr))", gap: 1, mb: 0.75 }}>
        {KINDS.map((kind) => (
          <Wheel key={kind.name} kind={kind} />
        ))}
      </Box>
      {KINDS.map((kind) => (
        <Mean key={kind.name} kind={kind} />
      ))}
    </Box>
  );
}

function Wheel({ kind }: { kind: Kind }) {
  const { name, label, plain, reach, least } = kind;
  const workspace = useWorkspace();
  const values = useScene((s) => s.look.decision[name]) as Triple;
  const held = useRef<Gesture<Triple> | null>(null);
  useEffect(() => () => held.current?.commit(), []);
  const path = pointer("look", "decision", name);
  const begin = (): Gesture<Triple> => {
    const gesture = workspace.begin(label);
    return { ...gesture, preview: (next) => gesture.preview([replace(path, next)]) };
  };
  const set = (next: Triple) => workspace.commit([replace(path, next)], label);
  const [x, y] = placeOf(values, reach);
  const middle = meanOf(values);

  const drag = (event: PointerEvent<HTMLElement>) => {
    const disc = event.currentTarget;
    const box = disc.getBoundingClientRect();
    disc.setPointerCapture(event.pointerId);
    held.current = begin();
    const move = (at: { clientX: number; clientY: number; shiftKey: boolean }) => {
      const place: [number, number] = [
        ((at.clientX - box.left) / box.width) * 2 - 1,
        1 - ((at.clientY - box.top) / box.height) * 2,
      ];
      held.current?.preview(leaning(middle, place, reach, least));
    };
    move(event);
    const end = () => {
      disc.removeEventListener("pointermove", move);
      held.current?.commit();
      held.current = null;
    };
    disc.addEventListener("pointermove", move);
    disc.addEventListener("pointerup", end, { once: true });
    disc.addEventListener("pointercancel", end, { once: true });
  };
  const keyed = (event: KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowDown: [0, -1], ArrowUp: [0, 1] }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    set(leaning(middle, [x + way[0]! * STEP, y + way[1]! * STEP], reach, least));
  };
  return (
    <Box sx={{ minWidth: 0 }}>
      <Box
        role="slider"
        tabIndex={0}
        aria-label={`${label}: colour`}
        aria-valuenow={Number(Math.hypot(x, y).toFixed(2))}
        aria-valuetext={values.map((value) => value.toFixed(3)).join(", ")}
        onPointerDown={drag}
        onDoubleClick={() => set([plain, plain, plain])}
        onKeyDown={keyed}
        sx={{
          width: SIZE,
          height: SIZE,
          mx: "auto",
          borderRadius: "50%",
          cursor: "crosshair",
          touchAction: "none",
        }}
      >
        <svg viewBox="-1.08 -1.08 2.16 2.16" aria-hidden style={{ display: "block" }}>
          <circle r={1.04} fill="#1b1b1b" stroke="#4a4a4a" strokeWidth={0.04} />
          {[0, 1, 2].map((i) => {
            const angle = Math.PI / 2 + (2 * Math.PI * i) / 3;
            return (
              <circle
                key={i}
                cx={0.86 * Math.cos(angle)}
                cy={-0.86 * Math.sin(angle)}
                r={0.09}
                fill={["#b8544b", "#5f8f55", "#5673b3"][i]}
              />
            );
          })}
          <line x1={0} y1={0} x2={x} y2={-y} stroke="#8d8a84" strokeWidth={0.04} />
          <circle cx={x} cy={-y} r={0.13} fill="#e6e2da" stroke="#1b1b1b" strokeWidth={0.05} />
        </svg>
      </Box>
      <Typography
        variant="caption"
        color="textSecondary"
        noWrap
        sx={{ display: "block", textAlign: "center" }}
      >
        {label}
      </Typography>
    </Box>
  );
}

/** The mean of the three numbers of a wheel: all of them rise and fall with it. */
function Mean({ kind }: { kind: Kind }) {
  const { name, label, plain, least, most } = kind;
  const workspace = useWorkspace();
  const values = useScene((s) => s.look.decision[name]) as Triple;
  const field: QuantityField = {
    label,
    unit: "",
    minimum: least,
    maximum: most,
    soft_minimum: plain === 0 ? -0.1 : 0.75,
    soft_maximum: plain === 0 ? 0.1 : 1.25,
    step: 0.002,
    scale: "linear",
    default: plain,
  };
  return (
    <Quantity
      field={field}
      value={Number(meanOf(values).toFixed(4))}
      begin={() => {
        const gesture = workspace.begin(label);
        const path = pointer("look", "decision", name);
        return {
          ...gesture,
          preview: (next) => gesture.preview([replace(path, withMean(values, next, least))]),
        };
      }}
    />
  );
}
