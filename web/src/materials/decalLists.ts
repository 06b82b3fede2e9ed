/** The decals of a scene in their order, and those that a selection asks for. */
import type { Decal, Operation, Scene } from "../api/types";
import { pointer, replace } from "../store/patch";

type Decals = Record<string, Decal>;

/** Keys of decals, the lowest first. */
export const inOrder = (decals: Decals) =>
  Object.keys(decals).sort((a, b) => decals[a]!.order - decals[b]!.order || (a < b ? -1 : 1));

/** Keys of those on selected parts, the uppermost first; then those that lie on nothing any more, to be taken away. */
export function listed(
  { decals, parts }: Pick<Scene, "decals" | "parts">,
  selection: readonly string[],
): string[] {
  const downwards = inOrder(decals).reverse();
  const isOn = (key: string, has: (part: string) => boolean) => decals[key]!.parts.some(has);
  return [
    ...downwards.filter((key) => isOn(key, (part) => part in parts && selection.includes(part))),
    ...downwards.filter((key) => !isOn(key, (part) => part in parts)),
  ];
}

/** The patch that lifts a decal over the next one, or lowers it below the one before. */
export function reordered(decals: Decals, key: string, by: 1 | -1): Operation[] {
  const keys = inOrder(decals);
  const place = keys.indexOf(key);
  const next = keys.toSpliced(place, 1).toSpliced(place + by, 0, key);
  return next.flatMap((each, order) =>
    decals[each]!.order === order ? [] : replace(pointer("decals", each, "order"), order),
  );
}
