/** Days of a year by number. Dates are written as 2026-06-21, and years count as having 365 days. */

const A_DAY_MS = 86_400_000;
export const DAYS = 365;

/** Day of its year, from 0. */
export function dayOf(date: string): number {
  const from = Date.UTC(Number(date.slice(0, 4)), 0, 1);
  return Math.round((Date.parse(`${date}T00:00:00Z`) - from) / A_DAY_MS);
}

/** The date of a day of the year that another date lies in. */
export function withDay(date: string, day: number): string {
  const from = Date.UTC(Number(date.slice(0, 4)), 0, 1);
  return new Date(from + Math.min(Math.max(Math.round(day), 0), DAYS - 1) * A_DAY_MS)
    .toISOString()
    .slice(0, 10);
}

/** Solstices and equinoxes of the north, by day of the year. */
export const SEASONS = [
  { value: 79, label: "Mar" },
  { value: 171, label: "Jun" },
  { value: 265, label: "Sep" },
  { value: 355, label: "Dec" },
];
