/** Sizes of pictures as people write them: 1920x1080, 3840 × 2160. */

/** Width and height of each size in a text; null when something in it is none. */
export function sizesIn(text: string): [number, number][] | null {
  const words = text.split(/[,;]+/).filter((word) => word.trim() !== "");
  const sizes = words.map((word) => /^\s*(\d{2,5})\s*[x×*]\s*(\d{2,5})\s*$/.exec(word));
  return sizes.every((found) => found !== null)
    ? sizes.map((found) => [Number(found![1]), Number(found![2])])
    : null;
}

export const bytes = (count: number) =>
  count < 1e9 ? `${Math.max(1, Math.round(count / 1e6))} MB` : `${(count / 1e9).toFixed(1)} GB`;
