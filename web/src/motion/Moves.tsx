/** What moves, a line each with the time that it takes; the whole, and the one that is chosen, beside them. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Typography from "@mui/material/Typography";
import { Eye, EyeOff, Trash2 } from "lucide-react";
import { type PointerEvent, useRef } from "react";
import { fields, moveModels } from "../api/fields.gen";
import type { Motion, Move } from "../api/types";
import { Clips } from "../asset/FromFile";
import { BoundField } from "../controls/bound";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { replace } from "../store/patch";
import { AddMove } from "./AddMove";
import { KeyFields } from "./KeyFields";
import { KeyTicks } from "./KeyTicks";
import { MoveEnds } from "./MoveEnds";
import { retimed } from "./recorded";
import { ShutterAngle } from "./ShutterAngle";

const HEIGHT = 176;
const WHOLE = [["motion"]];
const [NAME_WIDTH, FIELDS_WIDTH, ICON_WIDTH] = [168, 290, 28];
/** Pixels from the left, and from the right, within which the time of a line lies. */
export const LINE_BEGINS = 8 + ICON_WIDTH + NAME_WIDTH + 8;
export const LINE_ENDS = FIELDS_WIDTH + 8 + ICON_WIDTH + 8;
const SHORTEST = 0.1;
/** Where the end of a move is taken: within it, or beside its last key. */
const END = [
  { right: 0, width: 8 },
  { right: -12, width: 5, bgcolor: "#6d4a66", borderRadius: 0.5 },
];
const pathOf = (id: string, field: string) => `/motion/moves/${id}/${field}`;
const toTenth = (seconds: number) => Number(seconds.toFixed(2));

/** From when to when a move goes. */
export function spanOf(move: Move): readonly [number, number] {
  if (move.kind !== "keyed") return [move.start, move.start + move.seconds];
  return [move.keys[0]!.time, move.keys.at(-1)!.time];
}

export function Moves() {
  const motion = useScene((s) => s.motion);
  const chosen = useSlice((s) => s.move);
  const entries = Object.entries(motion.moves);
  const move = chosen === null ? undefined : motion.moves[chosen];
  return (
    <Box sx={{ height: HEIGHT, display: "flex", borderTop: "1px solid", borderColor: "divider" }}>
      <Box sx={{ flex: 1, minWidth: 0, overflowY: "auto", py: 0.5 }}>
        <Box component="ul" aria-label="Moves" sx={{ m: 0, p: 0, listStyle: "none" }}>
          {entries.map(([id, each]) => (
            <MoveLine key={id} id={id} move={each} motion={motion} isChosen={id === chosen} />
          ))}
        </Box>
        <Box sx={{ px: 1, pt: 0.5 }}>
          <AddMove />
        </Box>
      </Box>
      <Box
        sx={{
          width: FIELDS_WIDTH,
          overflowY: "auto",
          px: 1.5,
          py: 0.75,
          borderLeft: "1px solid",
          borderColor: "divider",
        }}
      >
        {chosen !== null && move ? (
          <MoveFields key={chosen} id={chosen} move={move} />
        ) : (
          <>
            {["seconds", "rate", "loop"].map((name) => (
              <BoundField key={name} model="Motion" places={WHOLE} name={name} />
            ))}
            <ShutterAngle />
          </>
        )}
      </Box>
    </Box>
  );
}

interface LineProps {
  id: string;
  move: Move;
  motion: Motion;
  isChosen: boolean;
}

function MoveLine({ id, move, motion, isChosen }: LineProps) {
  const workspace = useWorkspace();
  const remove = () => {
    workspace.commit([{ op: "remove", path: `/motion/moves/${id}` }], `Remove ${move.name}`);
    if (isChosen) workspace.set({ move: null });
  };
  const Seen = move.enabled ? Eye : EyeOff;
  return (
    <Box component="li" sx={{ display: "flex", alignItems: "center", height: 30, px: 1 }}>
      <IconButton
        size="small"
        sx={{ width: ICON_WIDTH }}
        aria-label={move.enabled ? `Switch off ${move.name}` : `Switch on ${move.name}`}
        onClick={() => workspace.commit([replace(pathOf(id, "enabled"), !move.enabled)], move.name)}
      >
        <Seen size={14} />
      </IconButton>
      <ButtonBase
        aria-pressed={isChosen}
        onClick={() => workspace.set({ move: isChosen ? null : id })}
        sx={{
          width: NAME_WIDTH,
          height: 26,
          px: 0.75,
          borderRadius: 1,
          justifyContent: "flex-start",
          color: isChosen ? "primary.main" : "text.primary",
          opacity: move.enabled ? 1 : 0.6,
        }}
      >
        <Typography variant="body2" noWrap>
          {move.name}
        </Typography>
      </ButtonBase>
      <Bar id={id} move={move} seconds={motion.seconds} />
      <IconButton size="small" sx={{ width: ICON_WIDTH }} aria-label={`Remove ${move.name}`} onClick={remove}>
        <Trash2 size={13} />
      </IconButton>
    </Box>
  );
}

/** The time of a move: dragged as a whole, or by its end. */
function Bar({ id, move, seconds }: { id: string; move: Move; seconds: number }) {
  const workspace = useWorkspace();
  const time = useScene((s) => s.shutter.time);
  const track = useRef<HTMLDivElement>(null);
  const held = useRef<{ gesture: Gesture; x: number; isEnd: boolean; start: number; length: number } | null>(
    null,
  );
  const [from, to] = spanOf(move);
  const share = (at: number) => `${(100 * Math.min(Math.max(at, 0), seconds)) / seconds}%`;
  const take = (isEnd: boolean) => (event: PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const gesture = workspace.begin(move.name);
    held.current = { gesture, x: event.clientX, isEnd, start: from, length: to - from };
  };
  const drag = (event: PointerEvent) => {
    const { current } = held;
    if (!current || !track.current) return;
    const by = ((event.clientX - current.x) / track.current.clientWidth) * seconds;
    const length = current.isEnd ? toTenth(Math.max(current.length + by, SHORTEST)) : current.length;
    const start = current.isEnd ? current.start : toTenth(Math.max(current.start + by, 0));
    if (move.kind === "keyed")
      current.gesture.preview([replace(pathOf(id, "keys"), retimed(move.keys, start, start + length))]);
    else
      current.gesture.preview([
        replace(pathOf(id, current.isEnd ? "seconds" : "start"), current.isEnd ? length : start),
      ]);
  };
  const letGo = () => {
    held.current?.gesture.commit();
    held.current = null;
  };
  const hands = { onPointerMove: drag, onPointerUp: letGo, onPointerCancel: letGo };
  return (
    <Box ref={track} sx={{ flex: 1, height: 22, mx: 1, position: "relative", bgcolor: "background.default" }}>
      <Box
        data-testid={`span-${id}`}
        onPointerDown={take(false)}
        {...hands}
        sx={{
          position: "absolute",
          left: share(from),
          width: `calc(${share(to)} - ${share(from)})`,
          minWidth: 6,
          top: 4,
          bottom: 4,
          borderRadius: 0.75,
          bgcolor: move.enabled ? "#6d4a66" : "action.disabledBackground",
          cursor: "grab",
          touchAction: "none",
        }}
      >
        {to > from && (
          <Box
            data-testid={`end-${id}`}
            onPointerDown={take(true)}
            {...hands}
            sx={{
              position: "absolute",
              top: 0,
              bottom: 0,
              cursor: "ew-resize",
              ...END[move.kind === "keyed" ? 1 : 0],
            }}
          />
        )}
      </Box>
      {move.kind === "keyed" && <KeyTicks id={id} move={move} seconds={seconds} track={track} />}
      <Box
        sx={{
          position: "absolute",
          left: share(time),
          top: 0,
          bottom: 0,
          width: "1px",
          bgcolor: "text.primary",
          pointerEvents: "none", // a key of this moment lies under it
        }}
      />
    </Box>
  );
}

/** What a move is like. */
function MoveFields({ id, move }: { id: string; move: Move }) {
  const places = [["motion", "moves", id]];
  const model = moveModels[move.kind] as keyof typeof fields;
  const names = Object.entries(fields[model]).flatMap(([name, { kind }]) =>
    kind && name !== "name" && name !== "enabled" ? name : [],
  );
  return (
    <Box role="group" aria-label={move.name}>
      {(move.kind === "travel" || move.kind === "relight") && <MoveEnds id={id} move={move} />}
      {move.kind === "clip" && <Clips />}
      {move.kind !== "keyed" &&
        names.map((name) => <BoundField key={name} model={model} places={places} name={name} />)}
      {move.kind === "keyed" && <KeyFields id={id} move={move} />}
    </Box>
  );
}
