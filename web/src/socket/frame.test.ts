import { describe, expect, it } from "vitest";
import { readFrame } from "./frame";

/** A frame message as the server packs it (docs/protocol.md). */
function message(): ArrayBuffer {
  const view = new DataView(new ArrayBuffer(67));
  for (const [i, c] of [..."VLF1"].entries()) view.setUint8(i, c.charCodeAt(0));
  view.setUint32(4, 7, true);
  view.setUint32(8, 41, true);
  view.setUint32(12, 16, true);
  view.setUint16(16, 640, true);
  view.setUint16(18, 400, true);
  view.setUint8(28, 1);
  view.setUint8(29, 3);
  return view.buffer;
}

describe("readFrame", () => {
  it("reads the header and hands on the picture", () => {
    const frame = readFrame(message());
    expect(frame).toMatchObject({ revision: 7, serial: 41, samples: 16, width: 640, height: 400 });
    expect(frame).toMatchObject({ lossless: true, settled: true, denoised: true, coarse: false });
    expect(frame.picture.size).toBe(3);
    expect(frame.picture.type).toBe("image/png");
  });

  it("refuses anything else", () => {
    expect(() => readFrame(new ArrayBuffer(100))).toThrow("not a frame");
    expect(() => readFrame(message().slice(0, 20))).toThrow("not a frame");
  });
});
