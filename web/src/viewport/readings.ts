/** What light meters say, in words. */

/** cd/m², exposure value at ISO 100, lx on the surface; null where there is none. */
export interface Reading {
  luminance: number | null;
  ev: number | null;
  illuminance: number | null;
}

export const short = (value: number) => Number(value.toPrecision(3)).toLocaleString("en");

export const readingOf = ({ luminance, ev, illuminance }: Reading) =>
  [
    `${short(luminance ?? 0)} cd/m²`,
    ev !== null && `EV ${ev.toFixed(1)}`,
    illuminance !== null && `${short(illuminance)} lx`,
  ]
    .filter(Boolean)
    .join(" · ");

/** "4.2 : 1, 2.1 stops" of two amounts, the larger first; null where one of them is nothing. */
export function ratioOf(a: number | null, b: number | null): string | null {
  if (!a || !b || a <= 0 || b <= 0) return null;
  const ratio = Math.max(a, b) / Math.min(a, b);
  return `${short(ratio)} : 1, ${Math.log2(ratio).toFixed(1)} stops`;
}
