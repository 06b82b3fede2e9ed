/**
 * Small pictures of this shot under other light, one after the other while the picture rests. In: what is to be shown,
 * by key. Out: addresses of pictures by key. What is in the picture but its light changes them all.
 */
import { useEffect, useMemo, useState } from "react";
import { conditions } from "../api/fields.gen";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

const REST_MS = 120;
/** What of a document does not show in them, or is what they themselves are about. */
const UNSEEN: readonly string[] = [
  ...conditions.sections,
  "conditions",
  "look",
  "balance",
  "proof",
  "print",
  "part_sets",
];

export interface Wanted {
  key: string;
  question: object;
  /** What the answer depends on besides the question. */
  is?: unknown;
}

export function useLitPictures(wanted: readonly Wanted[]): Record<string, string> {
  const workspace = useWorkspace();
  const [made, setMade] = useState<Record<string, { of: string; picture: string | null }>>({});
  const whole = useSlice((s) => (s.panes[SHOT]?.status?.samples ?? 0) > 0);
  const stage = useScene((s) => {
    const seen = Object.entries(s).filter(([name]) => !UNSEEN.includes(name));
    return digest(JSON.stringify(seen));
  });
  const tickets = useMemo(
    () =>
      wanted.map(({ key, question, is }) => ({
        key,
        question,
        of: `${stage} ${digest(JSON.stringify([question, is]))}`,
      })),
    [wanted, stage],
  );
  const next = tickets.find(({ key, of }) => made[key]?.of !== of);
  useEffect(() => {
    if (!next || !whole) return;
    let isOver = false;
    const rest = setTimeout(async () => {
      const answer = await workspace.askLight<{ picture: string | null }>("lit_picture", SHOT, next.question);
      if (!isOver)
        setMade((all) => ({ ...all, [next.key]: { of: next.of, picture: answer?.picture ?? null } }));
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, next, whole]);
  return useMemo(
    () =>
      Object.fromEntries(
        Object.entries(made).flatMap(([key, { picture }]) => (picture ? [[key, picture]] : [])),
      ),
    [made],
  );
}

/** A short name of a text; two that differ hardly ever share one (FNV-1a, 32 bits, twice). */
function digest(text: string): string {
  let [a, b] = [0x811c9dc5, 0x1000193];
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b ^ code, 0x85ebca6b);
  }
  return `${(a >>> 0).toString(36)}${(b >>> 0).toString(36)}`;
}
