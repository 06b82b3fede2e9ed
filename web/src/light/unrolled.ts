/**
 * Cards on the unrolled map. In: a card's angles. Out: places on the map, (0, 0) upper left to (1, 1) lower right; the
 * middle looks north, as lantern/light/cards.py lays cards.
 */
import type { Card } from "../api/types";
import { add, cross, normalize, scale, type Vector } from "../viewport/vectors";

const STEPS = 12;
const radians = (degrees: number) => (degrees * Math.PI) / 180;
const ROUND = ["round", "ring"];

export interface MapPlace {
  u: number;
  v: number;
}

/** Where a direction lies. */
export function placeOf([x, y, z]: Vector): MapPlace {
  const height = Math.min(Math.max(y, -1), 1);
  return { u: 0.5 + Math.atan2(x, -z) / (2 * Math.PI), v: Math.acos(height) / Math.PI };
}

/** (azimuth, elevation) in degrees of a place; beyond the edges it goes on around. */
export function anglesOf({ u, v }: MapPlace): { azimuth: number; elevation: number } {
  const azimuth = ((((u - 0.5) * 360 + 180) % 360) + 360) % 360;
  return {
    azimuth: Number((azimuth - 180).toFixed(2)),
    elevation: Number((90 - Math.min(Math.max(v, 0), 1) * 180).toFixed(2)),
  };
}

export function middleOf(card: Card): MapPlace {
  const a = ((((card.azimuth ?? 0) / 360 + 0.5) % 1) + 1) % 1;
  return { u: a, v: 0.5 - (card.elevation ?? 0) / 180 };
}

/** The outline of a card as lines; one that passes the map's edge is broken there. */
export function outlineOf(card: Card): MapPlace[][] {
  const { azimuth = 0, elevation = 0, width = 30, height = 30, roll = 0 } = card;
  const [a, e, r] = [azimuth, elevation, roll].map(radians) as [number, number, number];
  const towards: Vector = [Math.cos(e) * Math.sin(a), Math.sin(e), -Math.cos(e) * Math.cos(a)];
  const level: Vector = [Math.cos(a), 0, Math.sin(a)];
  const upright = cross(level, towards);
  const across = add(scale(level, Math.cos(r)), scale(upright, Math.sin(r)));
  const along = add(scale(upright, Math.cos(r)), scale(level, -Math.sin(r)));
  const [hx, hy] = [Math.tan(radians(width) / 2), Math.tan(radians(height) / 2)];
  const lines: MapPlace[][] = [[]];
  for (const [x, y] of rimOf(ROUND.includes(card.shape ?? "rectangle"))) {
    const direction = add(towards, add(scale(across, x * hx), scale(along, y * hy)));
    const place = placeOf(normalize(direction));
    const line = lines[lines.length - 1]!;
    const last = line[line.length - 1];
    if (last && Math.abs(last.u - place.u) > 0.5) lines.push([place]);
    else line.push(place);
  }
  return lines;
}

/** Places around a shape whose edges are at ±1. */
function rimOf(isRound: boolean): [number, number][] {
  if (isRound)
    return Array.from({ length: 4 * STEPS + 1 }, (_, i) => {
      const turn = (i / (4 * STEPS)) * 2 * Math.PI;
      return [Math.cos(turn), Math.sin(turn)];
    });
  const corners: [number, number][] = [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
    [-1, -1],
  ];
  return corners.slice(0, -1).flatMap(([x, y], i) => {
    const [nx, ny] = corners[i + 1]!;
    const last = i === 3 ? 1 : 0;
    return Array.from({ length: STEPS + last }, (_, k): [number, number] => [
      x + ((nx - x) * k) / STEPS,
      y + ((ny - y) * k) / STEPS,
    ]);
  });
}
