/** What can be chosen: edition, view, light; of the picture, or of the one beside it. */
import { useState } from "react";
import type { SeenSlide } from "../api/types";
import { ASPECTS, names, WORDS } from "./choosing";
import type { Seen } from "./useSeen";

interface Props {
  seen: Seen;
  slide: SeenSlide;
  maySwitch: boolean;
  mayCompare: boolean;
}

export function Choices({ seen, slide, maySwitch, mayCompare }: Props) {
  const { beside, showing } = seen;
  const [side, setSide] = useState(1);
  const second = beside !== undefined && side === 1;
  const of = second ? beside : slide;
  if (!maySwitch) return null;
  const compare = () => {
    if (beside) return seen.show({ beside: null });
    const others = showing.slides;
    setSide(1);
    seen.show({ beside: others[(others.indexOf(slide) + 1) % others.length]!.id });
  };
  return (
    <section aria-label="Choices" className="choices">
      {mayCompare && showing.slides.length > 1 && (
        <fieldset aria-label="Two pictures" className="row">
          <button type="button" aria-pressed={beside !== undefined} onClick={compare}>
            {beside ? "One picture again" : "Compare with another"}
          </button>
          {beside &&
            ["Left", "Right"].map((word, place) => (
              <button
                key={word}
                type="button"
                className="choice"
                aria-pressed={side === place}
                onClick={() => setSide(place)}
              >
                {word}
              </button>
            ))}
        </fieldset>
      )}
      {ASPECTS.map((aspect) => {
        const there = names(showing.slides, aspect);
        return (
          there.length > 0 && (
            <fieldset key={aspect} className="row">
              <legend>{WORDS[aspect]}</legend>
              {there.map((name) => (
                <button
                  key={name}
                  type="button"
                  className="choice"
                  aria-pressed={of[aspect] === name}
                  onClick={() => seen.switchTo(aspect, name, second)}
                >
                  {name || "As it is"}
                </button>
              ))}
            </fieldset>
          )
        );
      })}
    </section>
  );
}
