/** Which editions, shots and lights are combined, each with each; of none chosen what is on. */
import type { Scene } from "../api/types";
import { Several } from "../controls/Several";
import { useScene } from "../store/context";
import { inOrder } from "../store/order";

const KINDS = [
  ["editions", "Editions"],
  ["shots", "Shots"],
  ["conditions", "Light"],
] as const;

export interface Combined {
  editions: string[];
  shots: string[];
  conditions: string[];
}

/** All editions, as things are at first. */
export const allEditions = ({ editions, edition_order }: Scene): Combined => ({
  editions: inOrder(editions, edition_order).map(([key]) => key),
  shots: [],
  conditions: [],
});

interface Props {
  chosen: Combined;
  onChange: (chosen: Combined) => void;
}

export function Combining({ chosen, onChange }: Props) {
  const scene = useScene((s) => s);
  const there: Combined = {
    editions: allEditions(scene).editions,
    shots: inOrder(scene.shots, scene.shot_order).map(([key]) => key),
    conditions: Object.keys(scene.conditions),
  };
  return KINDS.map(([kind, title]) => (
    <Several
      key={kind}
      title={title}
      keys={there[kind]}
      nameOf={(key) => scene[kind][key]!.name}
      chosen={chosen[kind]}
      onChange={(keys) => onChange({ ...chosen, [kind]: keys })}
    />
  ));
}
