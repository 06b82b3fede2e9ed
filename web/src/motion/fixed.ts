/** Why the shot's camera does not follow the hand: it is locked, or the time line leads it. */
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
