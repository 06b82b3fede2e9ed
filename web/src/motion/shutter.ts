/** The shutter of a frame as an angle, and as when it opens and closes around the frame's moment. Pure functions. */

interface Open {
  /** Seconds from the moment of the frame. */
  opens: number;
  closes: number;
}

/** Degrees of 360 for a whole frame at a rate [1/s]. */
export const angleOf = ({ opens, closes }: Open, rate: number): number =>
  Number(((closes - opens) * rate * 360).toFixed(2));

/** Open for an angle [°], half of it before the moment and half after. */
export function openFor(angle: number, rate: number): Open {
  const half = Number((angle / 720 / rate).toFixed(6));
  return { opens: half === 0 ? 0 : -half, closes: half };
}
