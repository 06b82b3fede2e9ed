/** A colour: a patch that opens a picker in a perceptual space, with hex, linear and kelvin entry. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import InputBase from "@mui/material/InputBase";
import Popover from "@mui/material/Popover";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { type ReactNode, useEffect, useRef, useState } from "react";
import type { Color } from "../api/types";
import type { Gesture } from "../store/hand";
import { evaluate } from "./arithmetic";
import { fromHex, fromKelvin, fromLch, type Lch, toHex, toLch } from "./color";

interface Props {
  label: string;
  /** Undefined: several things have different colours. */
  value: Color | undefined;
  /** What stands between label and value. */
  mark?: ReactNode;
  /** Picture of the map that the colour multiplies: the patch shows the product, which is what is seen. */
  map?: string | undefined;
  begin: () => Gesture<Color>;
}

const MOST_CHROMA = 0.3;
const GREY: Color = [0.5, 0.5, 0.5];
const rounded = (color: Color): Color => color.map((c) => Number(c.toFixed(5))) as Color;

export function ColorField({ label, value, mark, map, begin }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const hex = value ? toHex(value) : "mixed";
  return (
    <Box sx={{ display: "flex", alignItems: "center", mb: 0.5, minHeight: 26 }}>
      <Typography noWrap variant="body2" color="textSecondary" sx={{ flex: 1 }}>
        {label}
      </Typography>
      {mark}
      <Typography variant="caption" color="textSecondary" sx={{ mx: 1 }}>
        {hex}
      </Typography>
      <ButtonBase
        aria-label={`${label}: ${hex}. Change`}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{
          width: 44,
          height: 20,
          borderRadius: 0.75,
          border: "1px solid #555",
        }}
        style={{
          backgroundColor: value ? hex : "transparent",
          ...(map && {
            backgroundImage: `url("${map}")`,
            backgroundSize: "cover",
            backgroundBlendMode: "multiply",
          }),
        }}
      />
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
      >
        <Picker label={label} value={value ?? GREY} begin={begin} />
      </Popover>
    </Box>
  );
}

function Picker({ label, value, begin }: Props & { value: Color }) {
  const [lch, setLch] = useState<Lch>(() => toLch(value));
  const held = useRef<Gesture<Color> | null>(null);
  const show = (color: Color) => {
    if (held.current === null || held.current.isOver()) held.current = begin();
    held.current.preview(rounded(color));
  };
  const letGo = () => {
    held.current?.commit();
    held.current = null;
  };
  useEffect(() => () => held.current?.commit(), []);
  const commit = (color: Color) => {
    setLch(toLch(color));
    show(color);
    letGo();
  };
  const channels = [
    { key: "lightness", label: "Lightness", most: 1 },
    { key: "chroma", label: "Chroma", most: MOST_CHROMA },
    { key: "hue", label: "Hue", most: 360 },
  ] as const;
  const track = (key: keyof Lch, most: number) =>
    `linear-gradient(to right, ${Array.from({ length: 13 }, (_, i) => toHex(fromLch({ ...lch, [key]: (i / 12) * most }))).join(", ")})`;

  return (
    <Box sx={{ p: 2, width: 248 }}>
      {channels.map(({ key, label: name, most }) => (
        <Box key={key}>
          <Typography variant="caption" color="textSecondary">
            {name}
          </Typography>
          <Slider
            value={Math.min(lch[key], most)}
            min={0}
            max={most}
            step={most / 200}
            aria-label={`${label} ${name.toLowerCase()}`}
            track={false}
            onChange={(_, v) => {
              const next = { ...lch, [key]: v as number };
              setLch(next);
              show(fromLch(next));
            }}
            onChangeCommitted={letGo}
            sx={{
              py: 1,
              "& .MuiSlider-rail": { opacity: 1, height: 10, borderRadius: 1, background: track(key, most) },
              "& .MuiSlider-thumb": { color: "#f2ece3" },
            }}
          />
        </Box>
      ))}
      <Box sx={{ display: "grid", gridTemplateColumns: "auto 1fr", gap: 0.75, alignItems: "center", mt: 1 }}>
        <Entry label="sRGB hex" initial={toHex(value)} parse={fromHex} onCommit={commit} />
        <Entry
          label="Linear"
          initial={value.map((c) => c.toFixed(3)).join(" ")}
          parse={parseLinear}
          onCommit={commit}
        />
        <Entry label="Kelvin" initial="" parse={parseKelvin} onCommit={commit} />
      </Box>
    </Box>
  );
}

function parseLinear(text: string): Color | null {
  const numbers = text
    .trim()
    .split(/[\s;]+/)
    .map(evaluate);
  if (numbers.length !== 3 || numbers.some((n) => n === null)) return null;
  return numbers.map((n) => Math.min(Math.max(n as number, 0), 1)) as Color;
}

function parseKelvin(text: string): Color | null {
  const kelvin = evaluate(text.replace(/k$/i, ""));
  return kelvin === null ? null : fromKelvin(kelvin);
}

interface EntryProps {
  label: string;
  initial: string;
  parse: (text: string) => Color | null;
  onCommit: (color: Color) => void;
}

function Entry({ label, initial, parse, onCommit }: EntryProps) {
  const [text, setText] = useState<string | null>(null);
  const wrong = text !== null && text !== "" && parse(text) === null;
  const finish = () => {
    const color = text ? parse(text) : null;
    if (color) onCommit(color);
    setText(null);
  };
  return (
    <>
      <Typography variant="caption" color="textSecondary">
        {label}
      </Typography>
      <InputBase
        value={text ?? initial}
        onChange={(event) => setText(event.target.value)}
        onBlur={finish}
        onKeyDown={(event) => event.key === "Enter" && finish()}
        error={wrong}
        inputProps={{ "aria-label": label, "aria-invalid": wrong }}
        sx={{
          fontSize: 12,
          bgcolor: "#2a2a2a",
          borderRadius: 0.5,
          px: 0.75,
          color: wrong ? "error.main" : "text.primary",
        }}
      />
    </>
  );
}
