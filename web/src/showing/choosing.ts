/** Which slide is seen: found by edition, view and light, the nearest to what was asked where there is none. */
import type { FromVisitor, SeenSlide } from "../api/types";

export const ASPECTS = ["edition", "shot", "conditions"] as const;
export type Aspect = (typeof ASPECTS)[number];
export const WORDS: Record<Aspect, string> = { edition: "Edition", shot: "View", conditions: "Light" };

/** The names that an aspect has among slides, in their order; nothing to choose from where it has one. */
export function names(slides: readonly SeenSlide[], aspect: Aspect): string[] {
  const found = [...new Set(slides.map((slide) => slide[aspect]))];
  return found.length > 1 ? found : [];
}

/** The slide with an aspect as named and as much else as can be of the one that is seen. */
export function switched(
  slides: readonly SeenSlide[],
  seen: SeenSlide,
  aspect: Aspect,
  name: string,
): SeenSlide {
  const alike = (slide: SeenSlide) =>
    ASPECTS.filter((each) => each !== aspect && slide[each] === seen[each]).length;
  const fitting = slides.filter((slide) => slide[aspect] === name);
  return fitting.reduce((best, each) => (alike(each) > alike(best) ? each : best), fitting[0] ?? seen);
}

/** From where a slide is seen, beside from its shot: degrees to the right and above, times as near. */
export type Around = Required<NonNullable<Extract<FromVisitor, { type: "look" }>["around"]>>;
export const FROM_THE_SHOT: Around = { azimuth: 0, raised: 0, closer: 1 };
export const MOST_RAISED = 80;
export const NEAREST = 3;
export const FURTHEST = 0.5;
export const HALF_TURN = 180;

export const isFromTheShot = ({ azimuth, raised, closer }: Around) =>
  azimuth === 0 && raised === 0 && closer === 1;

const within = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);

/** After the hand has gone so far across the picture, and down: its width is half a turn. */
export function turnedBy(begun: Around, across: number, down: number): Around {
  const azimuth = (((begun.azimuth - across * HALF_TURN) % 360) + 360) % 360;
  return { ...begun, azimuth, raised: within(begun.raised + down * HALF_TURN, -MOST_RAISED, MOST_RAISED) };
}

/** As near as before times something, within bounds. */
export const nearer = (begun: Around, times: number): Around => ({
  ...begun,
  closer: within(begun.closer * times, FURTHEST, NEAREST),
});

/** The picture of a ring that is nearest to a view. */
export const placeInRing = ({ azimuth }: Around, pictures: number) =>
  Math.round((azimuth / 360) * pictures) % pictures;

/** What a slide is called: what of it can be chosen. */
export function called(slides: readonly SeenSlide[], slide: SeenSlide): string {
  const said = ASPECTS.filter((aspect) => names(slides, aspect).length > 0).map((aspect) => slide[aspect]);
  return said.filter(Boolean).join(", ") || "Picture";
}
