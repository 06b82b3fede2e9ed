/** The bodies and pieces of a set, as the core describes them. */
import { forms, pieces } from "../api/fields.gen";

export type FormKind = keyof typeof forms;
export type Piece = keyof typeof pieces;

/** Name of the model that describes a form's fields. */
export const formModel = (kind: FormKind): (typeof forms)[FormKind] => forms[kind];

export const pieceName = (piece: Piece): string => pieces[piece];

/** What the pieces are for, and which they are. */
export const PIECES: [string, Piece[]][] = [
  ["Around it", ["sweep", "plane"]],
  ["Below it", ["plinth", "table_top"]],
  ["Beside it", ["box", "ball", "cylinder"]],
  ["To judge by", ["mirror_ball", "grey_ball", "chart"]],
];
