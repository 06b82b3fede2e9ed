/** What a new showing asks for: counted, and as the server is told. */
import { showing } from "../api/fields.gen";
import type { Right } from "../api/types";
import type { Combined } from "../compare/Combining";

/** Pictures that have to be made: each edition in each shot in each light, of nothing what is on. */
export const pictures = ({ editions, shots, conditions }: Combined, rights: readonly Right[]) =>
  [editions, shots, conditions].reduce((product, keys) => product * Math.max(keys.length, 1), 1) *
  (rights.includes("turn") ? showing.ring : 1);

/** The last moment of a day that a field of dates says. */
export const endOf = (day: string) => new Date(`${day}T23:59:59`).toISOString();
/** The day that is so many days from now, as a field of dates has it. */
export const dayIn = (days: number, now = new Date()) =>
  new Date(now.getTime() + days * 86_400_000).toISOString().slice(0, 10);
