/** What the host answers to a question about the document, asked again when what it depends on changes. */
import { useEffect, useState } from "react";

/** Changes that follow one another more quickly are one question. */
const REST_MS = 250;

/** The newest answer, null until there is one; `shown` must stay the same while the question does. */
export function useAnswer<Shown, Answer>(
  shown: Shown,
  ask: (shown: Shown) => Promise<Answer | null>,
): Answer | null {
  const [answer, setAnswer] = useState<Answer | null>(null);
  useEffect(() => {
    let gone = false;
    const rest = setTimeout(async () => {
      const found = await ask(shown);
      if (!gone && found) setAnswer(found);
    }, REST_MS);
    return () => {
      gone = true;
      clearTimeout(rest);
    };
  }, [shown, ask]);
  return answer;
}
