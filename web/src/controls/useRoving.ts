/**
 * A list is one stop of the Tab key: arrow keys go from item to item inside it. Comes in: how many items, and how one is
 * brought into sight. Goes out: the item that has the stop, and what the list and its items must carry.
 */
import { type KeyboardEvent, type RefObject, useEffect, useRef, useState } from "react";

const PAGE = 10;

export interface Roving {
  /** The item that the Tab key reaches. */
  current: number;
  list: RefObject<HTMLDivElement | null>;
  onKeyDown: (event: KeyboardEvent) => void;
  itemProps: (index: number) => { "data-item": number; tabIndex: 0 | -1; onFocus: () => void };
}

export function useRoving(
  count: number,
  axis: "vertical" | "horizontal",
  reveal: (index: number) => void,
): Roving {
  const list = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const wanted = useRef<number | null>(null);
  const current = Math.min(at, Math.max(count - 1, 0));

  // The item may not have been drawn before it was brought into sight.
  useEffect(() => {
    if (wanted.current === null) return;
    const item = list.current?.querySelector<HTMLElement>(`[data-item="${wanted.current}"]`);
    if (!item) return;
    wanted.current = null;
    item.focus();
  });

  const goTo = (index: number) => {
    const next = Math.min(Math.max(index, 0), count - 1);
    wanted.current = next;
    setAt(next);
    reveal(next);
  };

  const [back, forth] = axis === "vertical" ? ["ArrowUp", "ArrowDown"] : ["ArrowLeft", "ArrowRight"];
  const steps: Record<string, () => void> = {
    [back!]: () => goTo(current - 1),
    [forth!]: () => goTo(current + 1),
    Home: () => goTo(0),
    End: () => goTo(count - 1),
    PageUp: () => goTo(current - PAGE),
    PageDown: () => goTo(current + PAGE),
  };

  return {
    current,
    list,
    onKeyDown: (event) => {
      const step = steps[event.key];
      if (!step || !(event.target as HTMLElement).closest("[data-item]")) return;
      event.preventDefault();
      event.stopPropagation();
      step();
    },
    itemProps: (index) => ({
      "data-item": index,
      tabIndex: index === current ? 0 : -1,
      onFocus: () => setAt(index),
    }),
  };
}
