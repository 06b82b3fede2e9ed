/** Numbers with units as people write them, and as controls show them. The words and factors are the core's. */
import { units } from "../api/fields.gen";
import { evaluate, shown } from "./arithmetic";

const WORDS = units.words as Record<string, Record<string, number>>;
const PREFIXES = units.prefixes as Record<string, string>;
const FITTING = units.fitting as Record<string, Record<string, number>>;
const DIGITS = 4;

/** How a number is written at the moment: a word for the unit, and how many of the field's unit that is. */
export interface Scale {
  word: string;
  factor: number;
}

/** Whether a unit stands before its number: f/2.8. */
export const isPrefix = (unit: string) => unit in PREFIXES;

export type Reading = { value: number } | { problem: string };

/** The unit in which a value of a field is best shown: 0.0023 m as 2.3 mm. */
export function fittingScale(value: number, unit: string): Scale {
  const words = WORDS[unit] ?? {};
  const size = Math.abs(value);
  const [fitting = unit] =
    Object.entries(FITTING[unit] ?? {}).find(([, least]) => size > 0 && size >= least) ?? [];
  return { word: fitting, factor: words[fitting] ?? 1 };
}

/** Seconds up to which an exposure is written as a fraction. */
const LONGEST_FRACTION = 0.3;

/** An exposure time as a shutter has it: 1/125, 0.5. */
export function writtenTime(seconds: number): string {
  const part = 1 / seconds;
  return seconds > 0 && seconds <= LONGEST_FRACTION
    ? `1/${Number(part.toPrecision(3))}`
    : Number(seconds.toPrecision(3)).toString();
}

/** A value as it is shown, without its unit: with as many digits as its step, or its size, needs. */
export function written(value: number, scale: Scale, step: number): string {
  const amount = value / scale.factor;
  const size = Math.abs(amount);
  if (scale.factor === 1 && size < 1000 && (size === 0 || size >= step)) return shown(amount, step);
  return Number(amount.toPrecision(DIGITS)).toString();
}

/** Units of amounts of light, which may be said by how much brighter it is to be. */
const OF_LIGHT = ["×", "lm", "cd", "lx", "cd/m²", "W"];

/** "+1/3 stop", "-2 EV": so many times as much as now; null for anything else. */
function timesNow(text: string, unit: string): number | null {
  const [, sign, amount] = /^([+\-−])\s*([\d.,/ ]+?)\s*(?:stops?|ev)$/iu.exec(text) ?? [];
  const stops = amount && OF_LIGHT.includes(unit) ? evaluate(amount) : null;
  return stops === null || stops === undefined ? null : 2 ** (sign === "+" ? stops : -stops);
}

/**
 * What somebody has typed into a field. A bare number is of the unit that is shown; another unit may stand behind it.
 * An amount of light may be said in stops from `now`: "+1 stop", "-1/3 EV".
 */
export function read(text: string, unit: string, scale: Scale, now?: number): Reading {
  const words = WORDS[unit] ?? {};
  const times = timesNow(text.trim(), unit);
  if (times !== null && now !== undefined) return { value: now * times };
  let source = text.trim();
  const prefix = PREFIXES[unit];
  if (prefix && source.toLowerCase().startsWith(prefix)) source = source.slice(prefix.length);
  const [, amount = "", word = ""] = /^(.*?[\d.)])\s*([^\d\s.,)(*/+-][^\d\s]*)?$/u.exec(source) ?? [];
  if (!amount) return { problem: source ? `“${text.trim()}” is no number` : "A number is needed" };
  const value = evaluate(amount);
  if (value === null) return { problem: `“${amount}” cannot be worked out` };
  if (!word) return { value: value * scale.factor };
  const factor = words[word] ?? (word === unit ? 1 : undefined);
  if (factor === undefined) {
    const known = Object.keys(words);
    const help = known.length > 0 ? `: use ${known.slice(0, 5).join(", ")}` : "";
    return { problem: `“${word}” is no unit here${help}` };
  }
  return { value: value * factor };
}
