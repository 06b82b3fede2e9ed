/** What a drawer shows of its controls: those of a name that is looked for, or only those that were changed. */
import { createContext, useContext } from "react";

export interface Finding {
  /** In small letters; empty for everything. */
  query: string;
  changedOnly: boolean;
}

export const EVERYTHING: Finding = { query: "", changedOnly: false };
export const FindingContext = createContext<Finding>(EVERYTHING);
export const useFinding = () => useContext(FindingContext);

export const isFound = (text: string, query: string) => text.toLowerCase().includes(query);
