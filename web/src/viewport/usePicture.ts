/** Draws the newest picture of a pane into a canvas; under a loupe only its region changes. */
import { type RefObject, useEffect, useRef } from "react";
import type { Frame } from "../socket/frame";

export function usePicture(canvas: RefObject<HTMLCanvasElement | null>, frame: Frame | null): void {
  const newest = useRef(0);
  useEffect(() => {
    if (!frame) return;
    newest.current += 1;
    const number = newest.current;
    createImageBitmap(frame.picture).then((bitmap) => {
      const target = canvas.current;
      // Pictures are decoded beside each other: one that was overtaken is not wanted any more.
      if (target && number === newest.current) draw(target, frame, bitmap);
      bitmap.close();
    });
  }, [canvas, frame]);
}

function draw(target: HTMLCanvasElement, frame: Frame, bitmap: ImageBitmap): void {
  const { full, region } = frame;
  if (target.width !== full.width || target.height !== full.height) {
    target.width = full.width;
    target.height = full.height;
  }
  const context = target.getContext("2d");
  if (frame.kind === "overlay") context?.clearRect(0, 0, full.width, full.height);
  context?.drawImage(bitmap, region.x, region.y, region.width, region.height);
  const { samples, serial, revision, settled, coarse } = frame;
  Object.assign(target.dataset, {
    samples,
    serial,
    revision,
    state: settled ? "settled" : coarse ? "coarse" : "refining",
    drawn: `${frame.width}x${frame.height}`,
    region: `${region.x},${region.y},${region.width},${region.height}`,
  });
}
