/** Entries of the document in an order that is kept apart, as `lantern/scene/keys.py` has it. */

/** Those that the order names first; others behind, as the document has them. */
export function inOrder<T>(entries: Record<string, T>, order: readonly string[]): [string, T][] {
  const first = order.filter((key) => key in entries);
  return [...first, ...Object.keys(entries).filter((key) => !first.includes(key))].map((key) => [
    key,
    entries[key]!,
  ]);
}

/** An order with one of it moved by so many places. */
export function movedInOrder(order: readonly string[], place: number, by: number): string[] {
  const next = order.filter((_, i) => i !== place);
  next.splice(place + by, 0, order[place]!);
  return next;
}
