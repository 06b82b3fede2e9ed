/** What is being dragged from the shelf onto the picture. The browser shows a drag's data only once it has ended. */
import type { Operation, Scene } from "../api/types";

export interface Carried {
  /** Whether it goes onto a part; otherwise anywhere in the picture will do. */
  onPart: boolean;
  patch: (scene: Scene, parts: string[]) => Operation[];
  label: (where: string) => string;
}

let carried: Carried | null = null;

export const carry = (next: Carried | null) => {
  carried = next;
};
export const inHand = () => carried;

/** Handlers that let an item of the shelf be dragged. */
export function dragOf(item: Carried, name: string) {
  return {
    draggable: true,
    onDragStart: (event: React.DragEvent) => {
      event.dataTransfer.setData("text/plain", name);
      event.dataTransfer.effectAllowed = "copy";
      carry(item);
    },
    onDragEnd: () => carry(null),
  };
}
