/** Which slide is seen: found by edition, view and light, the nearest to what was asked where there is none. */
import type { SeenSlide } from "../api/types";

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

/** The place of a ring after the hand has gone so far across the picture: its width is half a turn. */
export function turnedBy(begun: number, across: number, pictures: number): number {
  const steps = Math.round((-across * pictures) / 2);
  return (((begun + steps) % pictures) + pictures) % pictures;
}

/** What a slide is called: what of it can be chosen. */
export function called(slides: readonly SeenSlide[], slide: SeenSlide): string {
  const said = ASPECTS.filter((aspect) => names(slides, aspect).length > 0).map((aspect) => slide[aspect]);
  return said.filter(Boolean).join(", ") || "Picture";
}
