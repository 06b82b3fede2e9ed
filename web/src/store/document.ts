/**
 * The document of an open project: what the server has, what is on its way there, and the change in hand. Comes in:
 * the server's messages and gestures. Goes out: edits. Used by every control through the workspace.
 */
import type { Operation, Scene, ServerMessage } from "../api/types";
import { recorded } from "../motion/recorded";
import type { ViewportSocket } from "../socket/viewport";
import { type Gesture, Hand } from "./hand";
import { difference, patched } from "./patch";
import type { Notice } from "./session";
import type { Slice } from "./slice";

export interface DocumentState {
  /** As the person sees it, with the change in hand. */
  scene: Scene;
  /** What the server has, with the edits that are on their way there. */
  committed: Scene;
  /** What was committed before this window's last edit; null before the first. */
  earlier: Scene | null;
  revision: number;
  canUndo: boolean;
  canRedo: boolean;
  saved: boolean;
  /** Changes on their way to the server. */
  unsent: number;
  /** Changes that the render host is asked for; edits made meanwhile are not of them. */
  asked: number;
  /** What places with a track are like at the moment that is shown, by their paths. */
  moved: Readonly<Record<string, unknown>>;
}

export interface DocumentActions {
  /** Hear what places with a track are like now. */
  takeMoved: (moved: DocumentState["moved"]) => void;
  /**
   * Take a change into the hand: it is shown while it is held, and one step of undo when it is let go. What it changes
   * of a place with a track is a key at the moment that is shown.
   */
  begin: (label: string) => Gesture;
  /** Let go of what is in hand, and store it. */
  letGo: () => void;
  /** Show the document as it was before the last edit of this window, until what is returned is called. */
  showEarlier: () => () => void;
  /** Change the document at once; what is in hand is let go before. */
  commit: (patch: Operation[], label: string) => void;
  /** Wait for the render host's answer that will be a change: until it has come, not all is saved. */
  expecting: <Answer>(answer: Promise<Answer>) => Promise<Answer>;
  undo: () => void;
  redo: () => void;
}

export interface Opening {
  scene: Scene;
  revision: number;
  can_undo: boolean;
  can_redo: boolean;
}

export const openedDocument = (opening: Opening): DocumentState => ({
  scene: opening.scene,
  committed: opening.scene,
  earlier: null,
  revision: opening.revision,
  canUndo: opening.can_undo,
  canRedo: opening.can_redo,
  saved: true,
  unsent: 0,
  asked: 0,
  moved: {},
});

/** The document with a patch, or as it was when what the patch is about is gone. */
function patchedIfFits(scene: Scene, patch: Operation[]): Scene {
  try {
    return patched(scene, patch);
  } catch {
    return scene;
  }
}

export interface DocumentSlice extends DocumentActions {
  receive: (message: ServerMessage) => void;
}

export function documentSlice(
  { getState: get, setState: set }: Slice<DocumentState>,
  socket: ViewportSocket,
  notify: (notice: Notice) => void,
): DocumentSlice {
  let confirmed = get().scene; // what the server has

  const sending = () => ({ saved: socket.unsent === 0, unsent: socket.unsent });

  const hand = new Hand({
    show: (patch) => {
      set((s) => ({ scene: patched(s.committed, patch) }));
      socket.preview(patch);
    },
    store: (patch, label) => {
      const earlier = get().committed;
      const scene = patched(earlier, patch);
      socket.edit(patch, label, get().revision);
      set({ committed: scene, scene, earlier, ...sending() });
    },
  });

  /** What a hand changes of a place with a track is its key; patches that are laid on whole stay as they are. */
  const begin = (label: string): Gesture => {
    const gesture = hand.begin(label);
    const before = get().moved;
    return {
      ...gesture,
      preview: (change) => {
        const { patch, moved } = recorded(get().committed, change);
        if (!gesture.isOver()) set({ moved: { ...before, ...moved } });
        gesture.preview(patch);
      },
      cancel: () => {
        if (!gesture.isOver()) set({ moved: before });
        gesture.cancel();
      },
    };
  };

  /** Edits on their way were made after what the server has said: quick ones must not jump back. */
  const lay = (): Pick<DocumentState, "committed" | "scene"> => {
    const committed = socket.waiting().reduce(patchedIfFits, confirmed);
    // An edit in hand goes on over the new document; its release decides.
    return { committed, scene: patchedIfFits(committed, hand.patch ?? []) };
  };

  const receive = (message: ServerMessage) => {
    switch (message.type) {
      case "document":
      case "edited":
        try {
          confirmed = message.type === "document" ? message.scene : patched(confirmed, message.patch);
        } catch {
          socket.reconnect(); // this window has missed something
          break;
        }
        set({
          ...lay(),
          revision: message.revision,
          canUndo: message.can_undo,
          canRedo: message.can_redo,
        });
        break;
      case "committed":
        set(sending());
        break;
      case "refused":
        set({ ...sending(), ...lay() });
        notify({ severity: "error", text: message.message });
        break;
    }
  };

  return {
    receive,
    takeMoved: (moved) => set({ moved }),
    begin,
    letGo: () => hand.letGo(),
    commit: (patch, label) => {
      const gesture = hand.begin(label);
      gesture.preview(patch);
      gesture.commit();
    },
    showEarlier: () => {
      // What is in hand is let go, and is the last edit then.
      const gesture = hand.begin("As it was");
      const { committed, earlier } = get();
      gesture.preview(earlier ? difference(committed, earlier) : []);
      return () => gesture.cancel();
    },
    expecting: async (answer) => {
      set((s) => ({ asked: s.asked + 1 }));
      try {
        return await answer;
      } finally {
        set((s) => ({ asked: s.asked - 1 }));
      }
    },
    undo: () => {
      hand.letGo();
      if (!get().canUndo) return;
      socket.undo();
      set(sending());
    },
    redo: () => {
      if (!get().canRedo) return;
      socket.redo();
      set(sending());
    },
  };
}
