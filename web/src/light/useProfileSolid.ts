/** The shape of a light's measured distribution, as the host has read it. */
import { useEffect, useState } from "react";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import type { Vector } from "../viewport/vectors";

export interface ProfileSolid {
  /** Half planes about the axis: places across, along and forward, in shares of the largest intensity. */
  planes: Vector[][] | null;
  candela: number;
}

export function useProfileSolid(id: string | null): ProfileSolid | null {
  const workspace = useWorkspace();
  const file = useScene((s) => {
    const light = id === null ? undefined : s.lights[id];
    return light && "profile" in light ? (light.profile?.sha256 ?? null) : null;
  });
  const [known, setKnown] = useState<{ file: string; solid: ProfileSolid | null } | null>(null);
  useEffect(() => {
    if (id === null || file === null) return;
    let isOver = false;
    workspace
      .askHost<ProfileSolid>("profile_solid", SHOT, { light: id })
      .then((solid) => !isOver && setKnown({ file, solid }));
    return () => {
      isOver = true;
    };
  }, [workspace, id, file]);
  return known !== null && known.file === file ? known.solid : null;
}
