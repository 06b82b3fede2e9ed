/** What visitors say of the picture, and saying it: with a pin in the picture if wanted, or choosing it. */
import { type FormEvent, useState } from "react";
import type { SeenSlide } from "../api/types";
import { type Closed, type Remark, server } from "./source";

interface Props {
  showing: number;
  slide: SeenSlide;
  /** What the picture is called. */
  name: string;
  pin: readonly [number, number] | null;
  /** Whether a press on the picture is to place a pin. */
  onPins: (wanted: boolean) => void;
  onSaid: () => Promise<void>;
}

const WHO = "who-looks";

export function Remarks({ showing, slide, name, pin, onPins, onSaid }: Props) {
  const [who, setWho] = useState(() => localStorage.getItem(WHO) ?? "");
  const [text, setText] = useState("");
  const [pins, setPins] = useState(false);
  const [answer, setAnswer] = useState("");
  const [problem, setProblem] = useState("");

  const pinning = (wanted: boolean) => {
    setPins(wanted);
    onPins(wanted);
  };
  const send = async (remark: Omit<Remark, "name">, done: string) => {
    setProblem("");
    setAnswer("");
    try {
      await server.say(showing, slide.id, { name: who, ...remark });
      localStorage.setItem(WHO, who);
      setText("");
      pinning(false);
      setAnswer(done);
      await onSaid();
    } catch (error) {
      setProblem((error as Closed).message);
    }
  };
  const say = (event: FormEvent) => {
    event.preventDefault();
    void send({ text, pin }, "Sent.");
  };
  return (
    <section aria-label="Comments" className="remarks">
      {slide.comments.map((each) => (
        <p key={each.id} className={each.answers ? "answer" : undefined}>
          <b>{each.author}</b> {each.text}
        </p>
      ))}
      <form onSubmit={say}>
        <label>
          Your name
          <input value={who} maxLength={60} onChange={(event) => setWho(event.target.value)} />
        </label>
        <label>
          What you think of it
          <textarea
            rows={2}
            value={text}
            maxLength={2000}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        {problem && <p role="alert">{problem}</p>}
        {answer && <p role="status">{answer}</p>}
        <div className="row">
          <button type="submit" disabled={!text.trim()}>
            Send
          </button>
          <button type="button" aria-pressed={pins} onClick={() => pinning(!pins)}>
            {pins ? (pin ? "Pin is placed" : "Press on the picture") : "Point at a place"}
          </button>
          <button
            type="button"
            className="strong"
            onClick={() => void send({ text, pin, chosen: true }, `You have chosen ${name}.`)}
          >
            Choose this one
          </button>
        </div>
      </form>
    </section>
  );
}
