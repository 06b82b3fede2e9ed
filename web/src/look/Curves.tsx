/** The tone curve, of all channels or of one; and the curves over hues. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useState } from "react";
import { curveMarks } from "../api/fields.gen";
import { CurveEditor, HEIGHT, WIDTH } from "./CurveEditor";

const CHANNELS = {
  master: ["All", "#e6e2da"],
  red: ["Red", "#d9695f"],
  green: ["Green", "#7fae72"],
  blue: ["Blue", "#6d8fd0"],
} as const;
const HUES = { hue: "Hue", saturation: "Saturation", lightness: "Lightness" } as const;
type Channel = keyof typeof CHANNELS;
type HueCurve = keyof typeof HUES;

/** Where middle grey and white lie on the axis of the code. */
const { grey: GREY, white: WHITE } = curveMarks;

function Choice<Name extends string>(props: {
  label: string;
  value: Name;
  words: readonly (readonly [Name, string])[];
  onChange: (next: Name) => void;
}) {
  return (
    <ToggleButtonGroup
      exclusive
      size="small"
      value={props.value}
      aria-label={props.label}
      onChange={(_, next: Name | null) => next && props.onChange(next)}
      sx={{ "& .MuiToggleButton-root": { py: 0.1, px: 1, fontSize: 11, textTransform: "none" } }}
    >
      {props.words.map(([name, word]) => (
        <ToggleButton key={name} value={name}>
          {word}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

export function ToneCurves() {
  const [channel, setChannel] = useState<Channel>("master");
  const [word, color] = CHANNELS[channel];
  return (
    <Box sx={{ mt: 0.5 }}>
      <Choice
        label="Channel of the curve"
        value={channel}
        words={Object.entries(CHANNELS).map(([name, [text]]) => [name as Channel, text] as const)}
        onChange={setChannel}
      />
      <CurveEditor
        key={channel}
        at={["look", "curve", channel]}
        label={`Tone, ${word.toLowerCase()}`}
        color={color}
        neutral={null}
        background={<Axis />}
      />
    </Box>
  );
}

function Axis() {
  return (
    <g stroke="#3a3a3a" strokeWidth={1}>
      <line x1={0} y1={HEIGHT} x2={WIDTH} y2={0} />
      {[GREY, WHITE].map((at) => (
        <line key={at} x1={at * WIDTH} y1={0} x2={at * WIDTH} y2={HEIGHT} strokeDasharray="3 3" />
      ))}
      <g fill="#8d8a84" stroke="none" fontSize={9}>
        <text x={GREY * WIDTH + 3} y={HEIGHT - 4}>
          grey
        </text>
        <text x={WHITE * WIDTH + 3} y={HEIGHT - 4}>
          white
        </text>
      </g>
    </g>
  );
}

export function HueCurves() {
  const [curve, setCurve] = useState<HueCurve>("saturation");
  return (
    <Box sx={{ mt: 0.5 }}>
      <Choice
        label="What the curve changes"
        value={curve}
        words={Object.entries(HUES).map(([name, text]) => [name as HueCurve, text] as const)}
        onChange={setCurve}
      />
      <CurveEditor
        key={curve}
        at={["look", "hues", curve]}
        label={`By hue: ${HUES[curve].toLowerCase()}`}
        color="#e6e2da"
        neutral={0.5}
        background={<Hues />}
      />
    </Box>
  );
}

/** The hues along the axis, red at both ends. */
function Hues() {
  const stops = [0, 1 / 6, 1 / 3, 1 / 2, 2 / 3, 5 / 6, 1];
  return (
    <g>
      <defs>
        <linearGradient id="hues-of-the-axis">
          {stops.map((at) => (
            <stop key={at} offset={at} stopColor={`hsl(${at * 360} 60% 42%)`} />
          ))}
        </linearGradient>
      </defs>
      <rect x={0} y={HEIGHT - 10} width={WIDTH} height={10} fill="url(#hues-of-the-axis)" />
      <line x1={0} y1={HEIGHT / 2} x2={WIDTH} y2={HEIGHT / 2} stroke="#3a3a3a" />
    </g>
  );
}
