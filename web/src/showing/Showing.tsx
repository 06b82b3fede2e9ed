/** A showing: the picture, what can be chosen beneath it, and what is said of it. */
import { useEffect, useState } from "react";
import type { SeenShowing } from "../api/types";
import { Choices } from "./Choices";
import { called } from "./choosing";
import { Remarks } from "./Remarks";
import { Stage } from "./Stage";
import { written } from "./source";
import { useSeen } from "./useSeen";

/** Pictures that are fetched ahead, so that switching shows them at once. */
const AHEAD = 60;

export function Showing({ first, onOver }: { first: SeenShowing; onOver: () => void }) {
  const seen = useSeen(first, onOver);
  const { showing, slide } = seen;
  const [pin, setPin] = useState<readonly [number, number] | null>(null);
  const [pins, setPins] = useState(false);
  useEffect(() => {
    document.title = showing.name;
    for (const each of showing.slides.slice(0, AHEAD)) new Image().src = each.pictures[0] ?? "";
  }, [showing]);

  const may = (right: SeenShowing["rights"][number]) => showing.rights.includes(right);
  return (
    <div className="page">
      <header>
        <h1>{showing.name}</h1>
        <p>
          {showing.slides.length < showing.wanted
            ? `${showing.slides.length} of ${showing.wanted} pictures are made, the others follow`
            : `Shown by ${showing.by}`}
        </p>
        <Leading seen={seen} />
      </header>
      {slide ? (
        <>
          <Stage
            seen={seen}
            slide={slide}
            pin={pin}
            onPin={pins ? setPin : null}
            mayTurn={may("turn")}
            isLive={!written() && (may("live") || showing.may_lead)}
          />
          <footer>
            <Choices seen={seen} slide={slide} maySwitch={may("switch")} mayCompare={may("compare")} />
            {may("comment") && (
              <Remarks
                key={slide.id}
                showing={showing.id}
                slide={slide}
                name={called(showing.slides, slide)}
                pin={pin}
                onPins={(wanted) => {
                  setPins(wanted);
                  setPin(null);
                }}
                onSaid={seen.reload}
              />
            )}
          </footer>
        </>
      ) : (
        <main className="door">The first picture is being made. It appears here by itself.</main>
      )}
    </div>
  );
}

/** Who says what is seen: for whoever may lead, and for those who are led. */
function Leading({ seen }: { seen: ReturnType<typeof useSeen> }) {
  if (seen.showing.may_lead) {
    return (
      <div className="leading">
        <button type="button" aria-pressed={seen.leads} onClick={() => seen.lead(!seen.leads)}>
          {seen.leads ? "You lead: all see this" : "Lead all who look"}
        </button>
        <span>{others(seen.viewers - 1)}</span>
      </div>
    );
  }
  if (!seen.isThereALead) return null;
  return (
    <div className="leading">
      <button type="button" aria-pressed={seen.isLed} onClick={() => seen.follow(!seen.isLed)}>
        {seen.isLed ? `${seen.showing.by} leads: look by yourself` : `Follow ${seen.showing.by}`}
      </button>
    </div>
  );
}

const others = (count: number) =>
  count < 1 ? "nobody else looks" : count === 1 ? "one other looks" : `${count} others look`;
