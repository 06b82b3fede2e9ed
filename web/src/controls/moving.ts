/** How a number moves by hand: evenly, or by factors where amounts, distances and times are concerned. */
import type { QuantityField } from "./Quantity";

/** Of what there is to run through, or of the value, that one pixel moves. */
const LINEAR_PIXELS = 300;
const FACTOR_A_PIXEL = 1.01;
const FACTOR_A_STEP = 1.05;
/** From nothing a factor leads nowhere: the first step is this share of the range. */
const FIRST_SHARE = 1 / 1000;
const DIGITS = 3;

type Range = Pick<QuantityField, "minimum" | "maximum" | "soft_minimum" | "soft_maximum" | "step" | "scale">;

const softRange = (field: Range): [number, number] => [
  field.soft_minimum ?? field.minimum ?? 0,
  field.soft_maximum ?? field.maximum ?? 1,
];

/** A value within the hard range of a field; whole where the field counts. */
export function limited(field: QuantityField, value: number): number {
  const { minimum = -1e9, maximum = 1e9, whole = false } = field;
  return Math.min(Math.max(whole ? Math.round(value) : value, minimum), maximum);
}

function byFactors(field: Range, value: number, factor: number): number {
  if ((field.minimum ?? 0) > 0) return value * factor;
  const first = softRange(field)[1] * FIRST_SHARE;
  const next = value === 0 && factor > 1 ? first * factor : value * factor;
  // Where nothing is possible, the hand gets there.
  return next < first / 100 ? 0 : next;
}

/** The value after the hand has moved so many pixels; `pace` is 10 with Shift, 0.1 with Alt. */
export function dragged(field: QuantityField, value: number, pixels: number, pace: number): number {
  const [low, high] = softRange(field);
  const next =
    field.scale === "logarithmic"
      ? byFactors(field, value, FACTOR_A_PIXEL ** (pixels * pace))
      : value + ((high - low) / LINEAR_PIXELS) * pixels * pace;
  return limited(field, rounded(field, next, pace));
}

/** The value after so many steps of an arrow key. */
export function stepped(field: QuantityField, value: number, steps: number, pace: number): number {
  if (field.scale !== "logarithmic" || field.whole)
    return limited(field, Number((value + (field.step ?? 1) * steps * pace).toFixed(9)));
  const next = byFactors(field, value, FACTOR_A_STEP ** (steps * pace));
  return limited(field, rounded(field, next, pace));
}

/** Without digits that nobody has asked for. */
function rounded(field: QuantityField, value: number, pace: number): number {
  if (field.scale === "logarithmic") return Number(value.toPrecision(pace < 1 ? DIGITS + 1 : DIGITS));
  const finest = ((field.step ?? 1) / 10) * (pace < 1 ? 0.1 : 1);
  return Number((Math.round(value / finest) * finest).toFixed(9));
}

/** Where a value lies in the range that is shown, [0, 1]. */
export function shareOf(field: QuantityField, value: number): number {
  const [low, high] = softRange(field);
  const within = (share: number) => Math.min(Math.max(share, 0), 1);
  if (field.scale !== "logarithmic") return within((value - low) / (high - low || 1));
  const first = Math.max(low, high * FIRST_SHARE);
  return value <= 0 ? 0 : within(Math.log(value / first) / Math.log(high / first));
}
