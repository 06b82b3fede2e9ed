/** The thin React side of the store. */
import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { Scene } from "../api/types";
import type { Workspace, WorkspaceState } from "./workspace";

const Context = createContext<Workspace | null>(null);
export const WorkspaceProvider = Context.Provider;

export function useWorkspace(): Workspace {
  const workspace = useContext(Context);
  if (!workspace) throw new Error("useWorkspace needs a WorkspaceProvider above it");
  return workspace;
}

/**
 * Something that follows from the document alone. It is worked out again when the document changes, and not at every
 * picture that comes.
 */
export function useScene<T>(select: (scene: Scene) => T): T {
  let known: Scene | null = null;
  let found: T;
  return useSlice(({ scene }) => {
    if (scene !== known) {
      found = select(scene);
      known = scene;
    }
    return found;
  });
}

/** A slice of the state; the component renders again when that slice changes. */
export function useSlice<T>(select: (state: WorkspaceState) => T): T {
  return useStore(useWorkspace(), select);
}
