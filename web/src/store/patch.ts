/** JSON Patch (RFC 6902: add, replace, remove) on the scene document: what is not touched stays the very same object. */
import type { Camera, Operation, Scene } from "../api/types";

/** One step of a JSON Pointer, escaped (RFC 6901, section 3). */
export const pointerStep = (key: string) => key.replaceAll("~", "~0").replaceAll("/", "~1");

export const pointer = (...steps: string[]) => steps.map((step) => `/${pointerStep(step)}`).join("");

export const replace = (path: string, value: unknown): Operation => ({ op: "replace", path, value });

const stepsOf = (path: string) =>
  path
    .split("/")
    .slice(1)
    .map((step) => step.replaceAll("~1", "/").replaceAll("~0", "~"));

function changedList(list: unknown[], { op, path, value }: Operation, step: string): unknown[] {
  const room = op === "add" ? 1 : 0;
  const index = step === "-" && op === "add" ? list.length : Number(step);
  if (!(Number.isInteger(index) && index >= 0 && index < list.length + room))
    throw new Error(`${path} is not there`);
  return list.toSpliced(index, op === "add" ? 0 : 1, ...(op === "remove" ? [] : [value]));
}

/** The container with the operation done below it, along `steps`. */
function changed(container: unknown, operation: Operation, steps: string[]): unknown {
  const [step, ...rest] = steps as [string, ...string[]];
  if (Array.isArray(container)) {
    if (rest.length === 0) return changedList(container, operation, step);
    if (!(Number(step) in container)) throw new Error(`${operation.path} is not there`);
    return container.with(Number(step), changed(container[Number(step)], operation, rest));
  }
  if (typeof container !== "object" || container === null) throw new Error(`${operation.path} is not there`);
  const entries = container as Record<string, unknown>;
  if (rest.length > 0) {
    if (!(step in entries)) throw new Error(`${operation.path} is not there`);
    return { ...entries, [step]: changed(entries[step], operation, rest) };
  }
  if (operation.op !== "add" && !(step in entries)) throw new Error(`${operation.path} is not there`);
  if (operation.op !== "remove") return { ...entries, [step]: operation.value };
  const { [step]: _, ...others } = entries;
  return others;
}

/** The document with a patch applied; the document itself stays as it is. Throws when an operation does not fit. */
export function patched(scene: Scene, patch: Operation[]): Scene {
  return patch.reduce<unknown>(
    (now, operation) => changed(now, operation, stepsOf(operation.path)),
    scene,
  ) as Scene;
}

/** Whether two values of a document say the same. */
export const isSame = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);

/** A patch of the camera's fields that differ: what somebody else changed meanwhile is left alone. */
export function cameraPatch(before: Camera, after: Camera): Operation[] {
  return (Object.keys(after) as (keyof Camera)[])
    .filter((field) => !isSame(before[field], after[field]))
    .map((field) => replace(pointer("camera", field), after[field]));
}

const isPlain = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/**
 * A patch that makes one document of another: section by section, and entry by entry where both have the same ones.
 * What they share, as documents of a few edits do, is passed over by its identity.
 */
export function difference(from: Scene, to: Scene): Operation[] {
  const sections = Object.keys(to) as (keyof Scene)[];
  return sections.flatMap((section) => {
    const [a, b] = [from[section] as unknown, to[section] as unknown];
    if (isSame(a, b)) return [];
    if (!isPlain(a) || !isPlain(b) || Object.keys(a).join() !== Object.keys(b).join())
      return [replace(pointer(section), b)];
    return Object.keys(b).flatMap((key) =>
      a[key] === b[key] ? [] : [replace(pointer(section, key), b[key])],
    );
  });
}
