/** A field of the document in the hand of a control. */
import { useMemo } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { isSame, pointer, replace } from "../store/patch";
import { described, type Field, type ModelName, type Place, valueAt } from "./fields";

export interface BoundProps {
  model: ModelName;
  /** Where the model's objects lie in the document: what is changed is changed in all of them. */
  places: readonly Place[];
  name: string;
}

export interface Bound<T> {
  field: Field;
  /** Undefined where several objects have different ones. */
  value: T | undefined;
  begin: () => Gesture<T>;
  commit: (next: T) => void;
}

export function useField<T>({ model, places, name }: BoundProps): Bound<T> {
  const workspace = useWorkspace();
  const known = described(model, name);
  const unit = useScene((s) =>
    known.unit_from ? (valueAt(s, [...(places[0] ?? []), known.unit_from]) as string) : known.unit,
  );
  const field = useMemo(() => (unit === undefined ? known : { ...known, unit }), [known, unit]);
  /** What a place with a track is like at this moment; of several objects their own values are shown. */
  const moved = useSlice((s) =>
    places.length === 1 ? (s.moved[pointer(...places[0]!, name)] as T | undefined) : undefined,
  );
  const value = useScene((s) => {
    if (moved !== undefined) return moved;
    const [first, ...others] = places.map((place) => valueAt(s, [...place, name]) as T);
    return others.every((other) => isSame(first, other)) ? first : undefined;
  });
  const patch = (next: T) => places.map((place) => replace(pointer(...place, name), next));
  return {
    field,
    value,
    begin: () => {
      const gesture = workspace.begin(field.label);
      return { ...gesture, preview: (next) => gesture.preview(patch(next)) };
    },
    commit: (next) => {
      const gesture = workspace.begin(field.label);
      gesture.preview(patch(next));
      gesture.commit();
    },
  };
}
