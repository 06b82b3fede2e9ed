/** What of the takes lies over the picture. */
import { useSlice } from "../store/context";
import type { TakesShown } from "../store/view";
import { Beside } from "./Beside";
import { ContactSheet } from "./ContactSheet";
import { useTakesHere } from "./keeping";
import { OneTake } from "./OneTake";

export function TakesOver() {
  const shown = useSlice((s) => (s.stop === "compare" ? s.takes : null));
  return shown === null ? null : <Shown shown={shown} />;
}

function Shown({ shown }: { shown: NonNullable<TakesShown> }) {
  const takes = useTakesHere();
  const found = (id: number) => takes.find((take) => take.id === id);
  if (shown === "sheet") return <ContactSheet takes={takes} />;
  if (typeof shown === "number") {
    const take = found(shown);
    return take ? <OneTake key={take.id} take={take} /> : <ContactSheet takes={takes} />;
  }
  const [first, second, ...others] = shown.flatMap((id) => found(id) ?? []);
  return first && second ? (
    <Beside key={shown.join()} takes={[first, second, ...others]} />
  ) : (
    <ContactSheet takes={takes} />
  );
}
