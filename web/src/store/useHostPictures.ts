/**
 * Small pictures that the render host makes, one after the other while nothing is in hand. In: what is to be shown, by
 * key. Out: addresses of pictures by key. What is seen in all of them, if it changes, changes them all.
 */
import { useEffect, useMemo, useState } from "react";
import type { Scene } from "../api/types";
import type { CameraQuestion, LightQuestion, LookQuestion, VariantQuestion } from "../socket/viewport";
import { useSlice, useWorkspace } from "./context";
import { SHOT } from "./panes";

const REST_MS = 120;

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
  stage: string;
  picture: string | null;
}

/** Tells one stage from the next: a number that grows when something else is seen. Edits leave what they do not touch. */
function stageKeeper(unseen: ReadonlySet<string>): (scene: Scene) => number {
  let known: Scene | null = null;
  let stage = 0;
  return (scene) => {
    const names = Object.keys(scene) as (keyof Scene)[];
    if (known === null || names.some((name) => !unseen.has(name) && scene[name] !== known![name])) stage++;
    known = scene;
    return stage;
  };
}

/**
 * `unseen` are sections of the document that do not show in the pictures, or are what these are about; `besides` is what
 * else they show. Both must stay the same while they say the same.
 */
export function useHostPictures(
  type: LightQuestion | LookQuestion | CameraQuestion | VariantQuestion,
  wanted: readonly Wanted[],
  unseen: ReadonlySet<string>,
  besides = "",
): Record<string, string> {
  const workspace = useWorkspace();
  const [made, setMade] = useState<Record<string, Made>>({});
  const [stageOf] = useState(() => stageKeeper(unseen));
  const [asked, setAsked] = useState(0);
  const stage = `${useSlice((s) => stageOf(s.committed))} ${besides}`;
  const whole = useSlice((s) => (s.panes[SHOT]?.status?.samples ?? 0) > 0);
  const next = wanted.find(({ key, is }) => made[key]?.is !== is || made[key].stage !== stage);
  useEffect(() => {
    if (!next || !whole) return;
    let isOver = false;
    const rest = setTimeout(async () => {
      const answer = await workspace.askHost<Answer>(type, SHOT, next.question);
      if (isOver) return;
      if (answer?.later) setAsked(asked + 1);
      else
        setMade((all) => ({ ...all, [next.key]: { is: next.is, stage, picture: answer?.picture ?? null } }));
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, type, next, stage, whole, asked]);
  return useMemo(
    () =>
      Object.fromEntries(
        Object.entries(made).flatMap(([key, { picture }]) => (picture ? [[key, picture]] : [])),
      ),
    [made],
  );
}
