/** Stops of a ramp: what a hand does with them, and how the bar of them is drawn. */
import type { Color } from "../api/types";
import { toHex } from "../controls/color";

export interface Stop {
  at: number;
  color: Color;
}

const mix = (a: Color, b: Color, t: number): Color => a.map((v, i) => v + (b[i]! - v) * t) as Color;
const between = (stops: Stop[], number: number) =>
  [stops[number - 1]?.at ?? 0, stops[number + 1]?.at ?? 1] as const;

/** A stop moved, but not past its neighbours. */
export function withPlace(stops: Stop[], number: number, at: number): Stop[] {
  const [low, high] = between(stops, number);
  return stops.with(number, { ...stops[number]!, at: Number(Math.min(Math.max(at, low), high).toFixed(4)) });
}

export const withColor = (stops: Stop[], number: number, color: Color): Stop[] =>
  stops.with(number, { ...stops[number]!, color });

export const withoutStop = (stops: Stop[], number: number): Stop[] => stops.toSpliced(number, 1);

/** The colour of a ramp at a place, linear between its stops. */
export function colorAt(stops: Stop[], at: number): Color {
  const after = stops.findIndex((stop) => stop.at >= at);
  if (after < 0) return stops.at(-1)!.color;
  if (after === 0) return stops[0]!.color;
  const [a, b] = [stops[after - 1]!, stops[after]!];
  return mix(a.color, b.color, (at - a.at) / Math.max(b.at - a.at, 1e-9));
}

/** Another stop of the colour that is there, at a place or in the widest gap; and its number. */
export function withStop(stops: Stop[], at: number | null): [Stop[], number] {
  let place = at;
  if (place === null) {
    const gaps = stops.slice(1).map((stop, i) => stop.at - stops[i]!.at);
    const widest = gaps.indexOf(Math.max(...gaps));
    place = (stops[widest]!.at + stops[widest + 1]!.at) / 2;
  }
  place = Number(Math.min(Math.max(place, 0), 1).toFixed(4));
  const found = stops.findIndex((stop) => stop.at > place);
  const number = found < 0 ? stops.length : found;
  return [stops.toSpliced(number, 0, { at: place, color: colorAt(stops, place) }), number];
}

const DRAWN = 6;
/** Colours drawn between two stops: light mixes linearly, which a gradient of a page does not. */

/** CSS of the bar. */
export function background(stops: Stop[], blend: "linear" | "smooth" | "steps"): string {
  const parts: string[] = [];
  stops.forEach((stop, i) => {
    const next = stops[i + 1];
    parts.push(`${toHex(stop.color)} ${stop.at * 100}%`);
    if (!next) return;
    if (blend === "steps") {
      parts.push(`${toHex(stop.color)} ${next.at * 100}%`);
      return;
    }
    for (let k = 1; k < DRAWN; k++) {
      const t = k / DRAWN;
      const share = blend === "smooth" ? t * t * (3 - 2 * t) : t;
      parts.push(
        `${toHex(mix(stop.color, next.color, share))} ${(stop.at + (next.at - stop.at) * t) * 100}%`,
      );
    }
  });
  return `linear-gradient(to right, ${parts.join(", ")})`;
}
