/** Variants as lists show them, and the keys that take them. */
import type { Variant, VariantGroup } from "../api/types";
import { inOrder } from "../store/order";
import { SHOT } from "../store/panes";
import type { Workspace } from "../store/workspace";

export const variantsOf = (group: VariantGroup): [string, Variant][] => inOrder(group.variants, group.order);

/** Of the keyboard, from 1 on. */
export const KEYS = 9;

/** What is pressed for a variant of the newest group; nothing beyond the ninth. */
export const keyOfVariant = (place: number): string => (place < KEYS ? String(place + 1) : "");

/** Take the variant of a place in the newest group; at the stop Compare alone, where the keys are shown. */
export function takeNumber(workspace: Workspace, number: number): void {
  const { scene, stop } = workspace.getState();
  if (stop !== "compare") return;
  const [id, group] = Object.entries(scene.variant_groups).at(-1) ?? [];
  const found = group && variantsOf(group)[number - 1];
  if (id && found) void workspace.commitBy("take_variant", SHOT, { group: id, variant: found[0] });
}
