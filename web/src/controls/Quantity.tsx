/**
 * A number with its unit: slide, type (with arithmetic), step with the arrow keys (Shift ×10, Alt ×0.1), reset by
 * double-click. While it is being changed, the value from before is shown beside it; the whole change is one edit.
 */
import Box from "@mui/material/Box";
import InputBase from "@mui/material/InputBase";
import Slider from "@mui/material/Slider";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { type KeyboardEvent, type ReactNode, useEffect, useId, useRef, useState } from "react";
import { evaluate, shown } from "./arithmetic";

export interface QuantityField {
  label: string;
  unit?: string;
  minimum?: number;
  maximum?: number;
  soft_minimum?: number;
  soft_maximum?: number;
  step?: number;
  whole?: boolean;
  default: number;
}

interface Props {
  field: QuantityField;
  value: number;
  /** What stands before the label. */
  lead?: ReactNode;
  /** What a double-click on the label does, where it is not the default that comes back. */
  onReset?: () => void;
  onPreview: (value: number) => void;
  onCommit: (value: number) => void;
}

const KEY_REST_MS = 400;

export function Quantity({ field, value, lead, onReset, onPreview, onCommit }: Props) {
  const { label, unit = "", minimum = -1e9, maximum = 1e9, step = 1, whole = false } = field;
  const finest = whole ? 1 : step / 10;
  const low = Math.min(field.soft_minimum ?? minimum, value);
  const high = Math.max(field.soft_maximum ?? maximum, value);
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const [before, setBefore] = useState<number | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const pending = useRef<number | null>(null);

  const limited = (v: number) => Math.min(Math.max(whole ? Math.round(v) : v, minimum), maximum);
  const finish = (v: number) => {
    clearTimeout(rest.current);
    pending.current = null;
    setBefore(null);
    onCommit(limited(v));
  };
  // A step by key that has not come to rest yet must not be lost when the control goes away.
  const latest = useRef(finish);
  latest.current = finish;
  useEffect(
    () => () => {
      if (pending.current !== null) latest.current(pending.current);
    },
    [],
  );

  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Enter") event.currentTarget.blur();
    if (event.key === "Escape") {
      setText(null);
      event.currentTarget.blur();
    }
    if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
    event.preventDefault();
    const factor = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const next = limited(Number((value + step * factor * (event.key === "ArrowUp" ? 1 : -1)).toFixed(9)));
    if (before === null) setBefore(value);
    setText(null);
    onPreview(next);
    pending.current = next;
    clearTimeout(rest.current);
    rest.current = setTimeout(() => finish(next), KEY_REST_MS);
  };

  const onBlur = () => {
    const typed = text === null ? null : evaluate(text);
    setText(null);
    if (typed !== null && limited(typed) !== value) finish(typed);
    else if (pending.current !== null) finish(pending.current);
  };

  return (
    <Box sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1 }}>
        {lead}
        <Typography
          component="label"
          htmlFor={id}
          variant="body2"
          color="text.secondary"
          sx={{ flex: 1 }}
          onDoubleClick={onReset ?? (() => finish(field.default))}
        >
          <Tooltip title="Double-click to reset">
            <span>{label}</span>
          </Tooltip>
        </Typography>
        {before !== null && before !== value && (
          <Typography variant="caption" color="text.secondary">
            was {shown(before, finest)}
          </Typography>
        )}
        <InputBase
          id={id}
          value={text ?? shown(value, finest)}
          onChange={(event) => setText(event.target.value)}
          onFocus={(event) => event.target.select()}
          onBlur={onBlur}
          onKeyDown={onKeyDown}
          inputProps={{ inputMode: "decimal", "aria-label": unit ? `${label} in ${unit}` : label }}
          sx={{
            width: 62,
            fontSize: 12.5,
            "& input": { textAlign: "right", p: 0.25, borderRadius: 0.5, bgcolor: "#2a2a2a" },
          }}
        />
        <Typography variant="caption" color="text.secondary" sx={{ width: 30 }}>
          {unit}
        </Typography>
      </Box>
      <Slider
        value={value}
        min={low}
        max={high}
        step={finest}
        aria-label={`${label} slider`}
        onChange={(_, v) => {
          if (before === null) setBefore(value);
          onPreview(v as number);
        }}
        onChangeCommitted={(_, v) => finish(v as number)}
        sx={{ py: 0.75, display: "block", width: "calc(100% - 8px)", mx: "4px" }}
      />
    </Box>
  );
}
