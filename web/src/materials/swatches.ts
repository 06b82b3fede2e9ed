/** The library of materials: finding one, and laying one into a document. */
import type { Operation, Scene, SwatchEntry } from "../api/types";
import { pointer, replace } from "../store/patch";

export const FAVOURITES = "Favourites";

/** Families in the order in which they stand on the shelf, after what is wanted at hand. */
export const familiesOf = (all: readonly SwatchEntry[]) => [
  ...(all.some((each) => each.is_favourite) ? [FAVOURITES] : []),
  ...new Set(all.map((each) => each.family)),
];

/** Those of a family, or of all of them, whose name, family or words have every word that is sought. */
export function found(all: readonly SwatchEntry[], family: string, sought: string): SwatchEntry[] {
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  return all.filter((each) => {
    const said = `${each.name} ${each.family} ${each.words}`.toLowerCase();
    const isOf = family === FAVOURITES ? each.is_favourite : family === "" || each.family === family;
    return isOf && words.every((word) => said.includes(word));
  });
}

/** Brings a swatch into the document, if it is not there, and dresses parts in it; a copy there is used as it is. */
export function dressed(scene: Scene, swatch: SwatchEntry, parts: readonly string[]): Operation[] {
  const missing = Object.entries(swatch.materials).filter(([key]) => !(key in scene.materials));
  return [
    // What lies over it first: a layer names a material that is there.
    ...missing
      .reverse()
      .map(([key, value]): Operation => ({ op: "add", path: pointer("materials", key), value })),
    ...parts.map((part) => replace(pointer("parts", part, "material"), swatch.key)),
  ];
}
