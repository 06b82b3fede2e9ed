/** Small pictures of this shot under other light: what is in the picture but its light changes them all. */
import { conditions } from "../api/fields.gen";
import { useHostPictures, type Wanted } from "../store/useHostPictures";

/** What of a document does not show in them, or is what they themselves are about. */
const UNSEEN: ReadonlySet<string> = new Set([
  ...conditions.sections,
  "conditions",
  "look",
  "balance",
  "proof",
  "print",
  "part_sets",
  "shots",
  "shot_order",
]);

export const useLitPictures = (wanted: readonly Wanted[]) => useHostPictures("lit_picture", wanted, UNSEEN);
