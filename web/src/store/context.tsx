/** The thin React side of the store. */
import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { Workspace, WorkspaceState } from "./workspace";

const Context = createContext<Workspace | null>(null);
export const WorkspaceProvider = Context.Provider;

export function useWorkspace(): Workspace {
  const workspace = useContext(Context);
  if (!workspace) throw new Error("useWorkspace needs a WorkspaceProvider above it");
  return workspace;
}

/** A slice of the state; the component renders again when that slice changes. */
export function useSlice<T>(select: (state: WorkspaceState) => T): T {
  return useStore(useWorkspace(), select);
}
