/** Numbers as short phrases. */

export function duration(seconds: number): string {
  if (seconds < 10) return `${seconds.toFixed(1)} s`;
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}

export const rate = (perSecond: number) => `${(perSecond / 1e6).toFixed(1)} Mrays/s`;

export const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;
