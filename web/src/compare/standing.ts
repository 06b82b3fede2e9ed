/** What of variants and editions is on, as the core finds it. */
import { useCallback, useMemo } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { useAnswer } from "../store/useAnswer";

export interface Standing {
  edition: string | null;
  /** Groups under whose variant something was changed. */
  changed: string[];
  /** Variants, as group and variant, that do not go with those that are on. */
  against: [string, string][];
  /** What each variant changes, in sentences, by group and variant. */
  words: Record<string, Record<string, string[]>>;
  combinations: number;
  allowed: number;
}

const NONE: Standing = { edition: null, changed: [], against: [], words: {}, combinations: 0, allowed: 0 };

export function useStanding(): Standing {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const revision = useSlice((s) => s.panes[SHOT]?.frame?.revision ?? 0);
  const shown = useMemo(() => ({ scene, revision }), [scene, revision]);
  const ask = useCallback(() => workspace.askHost<Standing>("variants_standing", SHOT), [workspace]);
  return useAnswer(shown, ask) ?? NONE;
}
