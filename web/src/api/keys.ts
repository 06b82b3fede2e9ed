/** A name that nothing else has, also where the page is not a secure context. */
export function newKey(): string {
  const words = crypto.getRandomValues(new Uint32Array(3));
  return Array.from(words, (word) => word.toString(36)).join("-");
}
