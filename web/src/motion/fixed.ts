/** What does not follow the hand, because the time line leads it; the shot's camera also when it is locked. */
import type { Scene } from "../api/types";
import { SHOT } from "../store/panes";

const STANDS = /^\/camera\/(position|target)/;

interface Seen {
  locked: boolean;
  scene: Scene;
}

/** In words; null where it may be moved. */
export function whyFixed({ locked, scene }: Seen, pane: number): string | null {
  if (pane !== SHOT) return null;
  if (locked) return "The shot is locked";
  const leads = Object.values(scene.motion.moves).find(
    (move) =>
      move.enabled &&
      ((move.kind === "travel" && move.first in scene.shots && move.last in scene.shots) ||
        (move.kind === "keyed" && STANDS.test(move.path))),
  );
  return leads ? `The time line leads the camera: ${leads.name}` : null;
}

/** The move by which the light goes from conditions to conditions, where one is on. */
export const leadsLight = ({ motion, conditions }: Scene) =>
  Object.values(motion.moves).find(
    (move) => move.kind === "relight" && move.enabled && move.first in conditions && move.last in conditions,
  );
