/** The placement in hand over the picture: one repeat of a pattern or an image on the part, to be moved, sized, turned. */
import { useMemo } from "react";
import { type Place as Steps, valueAt } from "../controls/fields";
import type { Input } from "../controls/inputs";
import type { Frame } from "../socket/frame";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { frameOfPlacement, inSpaceOf, turnedPlacement } from "./decalFrame";
import { FrameHandles } from "./FrameHandles";
import type { Place } from "./layout";
import type { Vector } from "./vectors";

/** Where the controls of what is placed stand: of a material's input, of a part's relief. */
const STOP_OF: Record<string, string> = { materials: "materials", parts: "asset" };

interface Props {
  number: PaneNumber;
  place: Place;
  frame: Frame;
}

export function PlacementFrame({ number, place, frame }: Props) {
  const workspace = useWorkspace();
  const steps = useSlice((s) => (s.placing && s.stop === STOP_OF[s.placing.at[0]!] ? s.placing : null));
  const part = useSlice((s) => s.selection[0] ?? null);
  const placement = useScene((s) => {
    const input = steps && (valueAt(s, steps.at) as Input | null | undefined);
    return input?.placement ?? null;
  });
  const parts = useScene((s) => s.parts);
  const part_groups = useScene((s) => s.part_groups);
  const asset = useScene((s) => s.asset);
  const scene = useMemo(() => ({ parts, part_groups, asset }), [parts, part_groups, asset]);
  const stands = useMemo(
    () => (placement && part !== null ? frameOfPlacement(placement, part, scene) : null),
    [placement, part, scene],
  );
  if (!steps || !placement || part === null || !stands) return null;
  const path = (name: string) => pointer(...(steps.at as Steps), "placement", name);
  const onMove = async (x: number, y: number) => {
    const found = await workspace.pick(number, x, y);
    const at = found && inSpaceOf(placement, part, scene, found.position as Vector);
    return (
      at && [
        replace(
          path("offset"),
          at.map((v) => Number(v.toFixed(6))),
        ),
      ]
    );
  };
  const onTurn = (by: number) =>
    turnedPlacement(placement, by).map((v, i) => replace(path(`turn_${"xyz"[i]}`), v));
  return (
    <FrameHandles
      place={place}
      frame={frame}
      stands={stands}
      name={steps.label}
      labels={{ move: `Move ${steps.label}`, size: `Size of ${steps.label}`, turn: `Turn ${steps.label}` }}
      id={number === 0 ? "placement" : `placement-${number}`}
      onMove={onMove}
      onSize={(by) => [replace(path("size"), Number(Math.max(placement.size * by, 1e-6).toPrecision(4)))]}
      onTurn={onTurn}
    />
  );
}
