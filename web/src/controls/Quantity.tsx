/**
 * A number with its unit on one line: drag across the value, or click and type. Arrow keys step (Shift ×10, Alt ×0.1),
 * a double-click on the label resets. A change in hand is one step of undo; Escape takes it back.
 */
import Box from "@mui/material/Box";
import InputBase from "@mui/material/InputBase";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import {
  type CSSProperties,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  useEffect,
  useId,
  useRef,
  useState,
} from "react";
import { flushSync } from "react-dom";
import type { Gesture } from "../store/hand";
import type { Field } from "./fields";
import { dragged, limited, shareOf, stepped } from "./moving";
import { fittingScale, isPrefix, read, type Scale, written, writtenTime } from "./reading";

/** What a control of a number has to know of its field. */
export type QuantityField = Omit<Field, "kind" | "default"> & { default: number };

interface Props {
  field: QuantityField;
  /** Undefined: several things have different values. */
  value: number | undefined;
  /** What stands before the label. */
  lead?: ReactNode;
  /** What stands between label and value. */
  mark?: ReactNode;
  /** What a double-click on the label does, where it is not the default that comes back. */
  onReset?: () => void;
  begin: () => Gesture<number>;
}

const CLICK_PIXELS = 3;
const paceOf = (event: { shiftKey: boolean; altKey: boolean }) =>
  event.shiftKey ? 10 : event.altKey ? 0.1 : 1;

/** What is held of the value, by pointer or by keys. */
interface Held {
  gesture: Gesture<number>;
  from: number;
}

function useHeld(begin: () => Gesture<number>) {
  const held = useRef<Held | null>(null);
  const [before, setBefore] = useState<number | null>(null);
  const take = (from: number): Held => {
    if (held.current === null || held.current.gesture.isOver()) {
      held.current = { gesture: begin(), from };
      setBefore(from);
    }
    return held.current;
  };
  const end = (how: "commit" | "cancel") => {
    held.current?.gesture[how]();
    held.current = null;
    setBefore(null);
  };
  // What is in hand must not be lost when the control goes away.
  useEffect(() => () => held.current?.gesture.commit(), []);
  return { before, take, end, isHolding: () => held.current !== null };
}

export function Quantity({ field, value, lead, mark, onReset, begin }: Props) {
  const { label, unit = "", minimum = -1e9, maximum = 1e9 } = field;
  const finest = field.whole ? 1 : (field.step ?? 1) / 10;
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  const press = useRef<{ x: number; moved: boolean; from: number } | null>(null);
  const [text, setText] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  const { before, take, end, isHolding } = useHeld(begin);
  // The unit does not change under the fingers.
  const frozen = useRef<Scale | null>(null);
  const scale = (text !== null || isHolding() ? frozen.current : null) ?? scaleFor(field, value ?? 0);
  frozen.current = scale;
  const current = value ?? field.default;
  const shown = (one: number) => (field.fraction ? writtenTime(one) : written(one, scale, finest));

  const store = (next: number) => {
    const { gesture } = take(current);
    gesture.preview(limited(field, next));
    end("commit");
  };
  const leaveText = () => {
    setText(null);
    setProblem("");
  };
  /** Take what was typed; what cannot be understood stays, with the reason. */
  const takeText = (): boolean => {
    if (text === null) return true;
    const found = read(text, unit, scale, value);
    const wrong = "problem" in found ? found.problem : outside(found.value, field, scale);
    if (wrong) {
      setProblem(wrong);
      return false;
    }
    leaveText();
    if ("value" in found && found.value !== value) store(found.value);
    return true;
  };

  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Enter") {
      // Drawn at once: the field is left as it is shown then, and the keys are the picture's again.
      const taken = flushSync(takeText);
      if (taken) event.currentTarget.blur();
    } else if (event.key === "Escape") {
      // With nothing to take back here it is for what is around: a popover that closes.
      if (text === null && !isHolding()) return;
      event.stopPropagation();
      flushSync(() => {
        leaveText();
        end("cancel");
      });
      event.currentTarget.blur();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      event.preventDefault();
      leaveText();
      const { gesture } = take(current);
      gesture.preview(stepped(field, current, event.key === "ArrowUp" ? 1 : -1, paceOf(event)));
    }
  };

  const onPointerDown = (event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0 || document.activeElement === input.current) return;
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    press.current = { x: event.clientX, moved: false, from: current };
  };
  const onPointerMove = (event: PointerEvent<HTMLElement>) => {
    const from = press.current;
    if (!from) return;
    const pixels = event.clientX - from.x;
    from.moved ||= Math.abs(pixels) > CLICK_PIXELS;
    if (from.moved) take(from.from).gesture.preview(dragged(field, from.from, pixels, paceOf(event)));
  };
  const onPointerUp = () => {
    const from = press.current;
    press.current = null;
    if (from?.moved) end("commit");
    else if (from) {
      input.current?.focus();
      input.current?.select();
    }
  };
  const onPointerCancel = () => {
    if (press.current?.moved) end("cancel");
    press.current = null;
  };

  const share = value === undefined ? 0 : 100 * shareOf(field, value);
  const said = text ?? (value === undefined ? "" : shown(value));
  return (
    <Box sx={{ mb: 0.5 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
        {lead}
        <Typography
          component="label"
          htmlFor={id}
          variant="body2"
          color="textSecondary"
          noWrap
          sx={{ flex: 1 }}
          onDoubleClick={onReset ?? (() => store(field.default))}
        >
          <Tooltip title="Double-click to reset">
            <span>{label}</span>
          </Tooltip>
        </Typography>
        {before !== null && before !== value && (
          <Typography variant="caption" color="textSecondary" noWrap>
            was {shown(before)}
          </Typography>
        )}
        {mark}
        <Box
          data-testid={`track ${label}`}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onPointerCancel={onPointerCancel}
          // Not among the styles below: each value would be a new rule in the page's style sheet.
          style={{ "--share": `${share}%` } as CSSProperties}
          sx={{
            width: TRACK_WIDTH,
            flexShrink: 0,
            display: "flex",
            alignItems: "center",
            borderRadius: 0.75,
            px: 0.75,
            cursor: "ew-resize",
            touchAction: "none",
            border: "1px solid",
            borderColor: problem ? "error.main" : "transparent",
            background: (t) =>
              `linear-gradient(to right, ${t.palette.action.selected} var(--share), #2a2a2a var(--share)) border-box`,
            "&:hover": { borderColor: problem ? "error.main" : "divider" },
            "&:focus-within": { cursor: "text", borderColor: problem ? "error.main" : "primary.main" },
          }}
        >
          <InputBase
            id={id}
            inputRef={input}
            value={said}
            placeholder={value === undefined ? "mixed" : undefined}
            onChange={(event) => {
              setText(event.target.value);
              setProblem("");
            }}
            onFocus={(event) => event.target.select()}
            onBlur={() => {
              if (takeText()) end("commit");
            }}
            onKeyDown={onKeyDown}
            inputProps={{
              role: "spinbutton",
              inputMode: "decimal",
              autoComplete: "off",
              "aria-label": unit ? `${label} in ${unit}` : label,
              "aria-valuenow": value,
              "aria-valuetext": value === undefined ? "mixed" : `${said} ${scale.word}`,
              "aria-valuemin": minimum,
              "aria-valuemax": maximum,
              "aria-invalid": problem !== "",
              "aria-describedby": problem ? `${id}-problem` : undefined,
            }}
            sx={{ flex: 1, fontSize: 12.5, "& input": { p: 0.25, textAlign: "right", cursor: "inherit" } }}
          />
          <Typography
            variant="caption"
            color="textSecondary"
            sx={
              isPrefix(unit)
                ? { order: -1, pointerEvents: "none" }
                : { ml: 0.5, minWidth: 22, pointerEvents: "none" }
            }
          >
            {scale.word}
          </Typography>
        </Box>
      </Box>
      {problem && (
        <Typography id={`${id}-problem`} role="alert" variant="caption" color="error" component="p">
          {problem}
        </Typography>
      )}
    </Box>
  );
}

const TRACK_WIDTH = 112;

/** A fraction of a second stays in seconds: 1/125 s. */
const scaleFor = ({ unit = "", fraction }: QuantityField, value: number): Scale =>
  fraction ? { word: unit, factor: 1 } : fittingScale(value, unit);

/** Why a value cannot be taken, or nothing. */
function outside(value: number, field: QuantityField, scale: Scale): string {
  const { minimum = -1e9, maximum = 1e9 } = field;
  const end = value < minimum ? minimum : value > maximum ? maximum : null;
  if (end === null) return "";
  const amount = `${written(end, scale, (field.step ?? 1) / 10)} ${scale.word}`.trim();
  return value < minimum ? `At least ${amount}` : `At most ${amount}`;
}
