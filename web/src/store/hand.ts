/**
 * What the person has in hand: a change that is shown while it is held and stored, as one step of undo, when it is let
 * go. There is one hand: a second gesture ends the one before, whose change is stored and not lost.
 */
import type { Operation } from "../api/types";

/** A change in hand: of the document, or of what `T` says. */
export interface Gesture<T = Operation[]> {
  /** Show a change of what was committed, in the place of what was shown before. */
  preview: (change: T) => void;
  /** Let go: what was shown last is stored, under `label` if that says it better now. Nothing when it is over. */
  commit: (label?: string) => void;
  /** Let go, and leave everything as it was. Nothing when it is over. */
  cancel: () => void;
  isOver: () => boolean;
}

export interface HandEnds {
  show: (patch: Operation[]) => void;
  store: (patch: Operation[], label: string) => void;
}

export class Hand {
  private held: { gesture: Gesture; patch: Operation[] } | null = null;

  constructor(private readonly ends: HandEnds) {}

  /** What is shown and not stored; null when nothing is in hand. */
  get patch(): Operation[] | null {
    return this.held?.patch ?? null;
  }

  /** Take something into the hand; what it held is let go and stored. */
  begin(label: string): Gesture {
    this.letGo();
    const end = (store: boolean, named = label) => {
      if (this.held?.gesture !== gesture) return;
      const { patch } = this.held;
      this.held = null;
      if (store && patch.length > 0) this.ends.store(patch, named);
      else this.ends.show([]);
    };
    const gesture: Gesture = {
      preview: (patch) => {
        if (this.held?.gesture !== gesture) return;
        this.held.patch = patch;
        this.ends.show(patch);
      },
      commit: (named) => end(true, named),
      cancel: () => end(false),
      isOver: () => this.held?.gesture !== gesture,
    };
    this.held = { gesture, patch: [] };
    return gesture;
  }

  /** Let go of what is held, and store it. */
  letGo(): void {
    this.held?.gesture.commit();
  }
}
