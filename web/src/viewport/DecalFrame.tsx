/** The decal in hand over the picture: dragged over the surface, sized, turned. */
import { useEffect, useMemo, useState } from "react";
import type { Frame } from "../socket/frame";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { frameOf, within } from "./decalFrame";
import { FrameHandles } from "./FrameHandles";
import type { Place } from "./layout";

/** Height over width, until it is known. */
const UNKNOWN_SHAPE = 0.5;

interface Props {
  number: PaneNumber;
  place: Place;
  frame: Frame;
}

/** Height over width of what is on a decal, which the host knows; it is asked again when that is another. */
function useTall(key: string | null): number | null {
  const workspace = useWorkspace();
  const content = useScene((s) => (key === null ? null : (s.decals[key]?.content ?? null)));
  const isReady = useSlice((s) => s.opened !== null);
  const [tall, setTall] = useState<number | null>(null);
  useEffect(() => {
    let current = true;
    if (key !== null && content && isReady)
      workspace.decalShape(key).then((found) => current && setTall(found));
    return () => {
      current = false;
    };
  }, [workspace, key, content, isReady]);
  return tall;
}

export function DecalFrame({ number, place, frame }: Props) {
  const workspace = useWorkspace();
  const key = useSlice((s) => (s.stop === "materials" ? s.decal : null));
  const decal = useScene((s) => (key === null ? null : (s.decals[key] ?? null)));
  const parts = useScene((s) => s.parts);
  const part_groups = useScene((s) => s.part_groups);
  const asset = useScene((s) => s.asset);
  const tall = useTall(key);
  const stands = useMemo(
    () => decal && frameOf(decal, tall ?? UNKNOWN_SHAPE, { parts, part_groups, asset }),
    [decal, tall, parts, part_groups, asset],
  );
  if (key === null || !decal || !stands) return null;
  const path = (name: string) => pointer("decals", key, name);
  /** Where it has come to another part, that is selected: what the drawer shows goes along. */
  const onLetGo = () => {
    const { scene, selection, decal: chosen } = workspace.getState();
    const carrier = scene.decals[key]?.parts[0];
    if (carrier !== undefined && chosen === key && !selection.includes(carrier)) workspace.select([carrier]);
  };
  return (
    <FrameHandles
      place={place}
      frame={frame}
      stands={stands}
      name={decal.name}
      labels={{ move: `Move ${decal.name}`, size: `Width of ${decal.name}`, turn: `Turn ${decal.name}` }}
      id={number === 0 ? "decal" : `decal-${number}`}
      onMove={(x, y) => workspace.stuck(number, x, y, key)}
      onSize={(by) => [replace(path("width"), Number(Math.max(decal.width * by, 1e-6).toPrecision(4)))]}
      onTurn={(by) => [replace(path("turn"), Math.round(within(decal.turn + by)))]}
      onLetGo={onLetGo}
    />
  );
}
