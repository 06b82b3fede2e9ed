/** Small helpers for JSON Patches on the scene document. */
import { applyPatch } from "fast-json-patch";
import type { Camera, Operation, Scene } from "../api/types";

/** One step of a JSON Pointer, escaped (RFC 6901, section 3). */
export const pointerStep = (key: string) => key.replaceAll("~", "~0").replaceAll("/", "~1");

export const pointer = (...steps: string[]) => steps.map((step) => `/${pointerStep(step)}`).join("");

export const replace = (path: string, value: unknown): Operation => ({ op: "replace", path, value });

/** The document with a patch applied; the document itself stays as it is. */
export function patched(scene: Scene, patch: Operation[]): Scene {
  return applyPatch(scene, patch as never, true, false).newDocument;
}

/** A patch of the camera's fields that differ: what somebody else changed meanwhile is left alone. */
export function cameraPatch(before: Camera, after: Camera): Operation[] {
  return (Object.keys(after) as (keyof Camera)[])
    .filter((field) => JSON.stringify(before[field]) !== JSON.stringify(after[field]))
    .map((field) => replace(pointer("camera", field), after[field]));
}
