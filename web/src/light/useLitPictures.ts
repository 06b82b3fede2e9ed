/**
 * Small pictures of this shot under other light, one after the other while nothing is in hand. In: what is to be shown,
 * by key. Out: addresses of pictures by key. What is in the picture but its light changes them all.
 */
import { useEffect, useMemo, useState } from "react";
import { conditions } from "../api/fields.gen";
import type { Scene } from "../api/types";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

const REST_MS = 120;
/** What of a document does not show in them, or is what they themselves are about. */
const UNSEEN: ReadonlySet<string> = new Set([
  ...conditions.sections,
  "conditions",
  "look",
  "balance",
  "proof",
  "print",
  "part_sets",
]);

export interface Wanted {
  key: string;
  question: object;
  /** What is shown: another picture is made when this is another object. */
  is: object;
}

interface Answer {
  picture: string | null;
  /** Something else was wanted meanwhile: it can be had when asked for again. */
  later: boolean;
}

interface Made {
  is: object;
  stage: number;
  picture: string | null;
}

/** Tells one stage from the next: a number that grows when something else is seen. Edits leave what they do not touch. */
function stageKeeper(): (scene: Scene) => number {
  let known: Scene | null = null;
  let stage = 0;
  return (scene) => {
    const names = Object.keys(scene) as (keyof Scene)[];
    if (known === null || names.some((name) => !UNSEEN.has(name) && scene[name] !== known![name])) stage++;
    known = scene;
    return stage;
  };
}

export function useLitPictures(wanted: readonly Wanted[]): Record<string, string> {
  const workspace = useWorkspace();
  const [made, setMade] = useState<Record<string, Made>>({});
  const [stageOf] = useState(stageKeeper);
  const [asked, setAsked] = useState(0);
  const stage = useSlice((s) => stageOf(s.committed));
  const whole = useSlice((s) => (s.panes[SHOT]?.status?.samples ?? 0) > 0);
  const next = wanted.find(({ key, is }) => made[key]?.is !== is || made[key].stage !== stage);
  useEffect(() => {
    if (!next || !whole) return;
    let isOver = false;
    const rest = setTimeout(async () => {
      const answer = await workspace.askLight<Answer>("lit_picture", SHOT, next.question);
      if (isOver) return;
      if (answer?.later) setAsked(asked + 1);
      else
        setMade((all) => ({ ...all, [next.key]: { is: next.is, stage, picture: answer?.picture ?? null } }));
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, next, stage, whole, asked]);
  return useMemo(
    () =>
      Object.fromEntries(
        Object.entries(made).flatMap(([key, { picture }]) => (picture ? [[key, picture]] : [])),
      ),
    [made],
  );
}
