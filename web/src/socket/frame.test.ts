import { describe, expect, it } from "vitest";
import { readFrame } from "./frame";

/** A picture message as the server packs it (docs/protocol.md). */
function message(kind = "VLF2"): ArrayBuffer {
  const view = new DataView(new ArrayBuffer(87));
  for (const [i, c] of [...kind].entries()) view.setUint8(i, c.charCodeAt(0));
  view.setUint32(4, 7, true);
  view.setUint32(8, 41, true);
  view.setUint32(12, 16, true);
  for (const [i, n] of [320, 200, 640, 400, 10, 20, 320, 200].entries()) view.setUint16(16 + 2 * i, n, true);
  view.setUint8(32, 1);
  view.setUint8(33, 3 + 8);
  view.setUint16(34, 1, true);
  for (let i = 0; i < 12; i++) view.setFloat32(36 + 4 * i, i, true);
  return view.buffer;
}

describe("readFrame", () => {
  it("reads the header and hands on the picture", () => {
    const frame = readFrame(message());
    expect(frame).toMatchObject({ kind: "frame", revision: 7, serial: 41, samples: 16, width: 320, pane: 1 });
    expect(frame.full).toEqual({ width: 640, height: 400 });
    expect(frame.region).toEqual({ x: 10, y: 20, width: 320, height: 200 });
    expect(frame).toMatchObject({ lossless: true, settled: true, denoised: true, coarse: false });
    expect(frame.camera).toMatchObject({
      target: [3, 4, 5],
      sensor_width: 7,
      distortion: 10,
      roll: 11,
      orthographic: true,
    });
    expect(frame.picture.size).toBe(3);
    expect(frame.picture.type).toBe("image/png");
  });

  it("tells overlays from pictures", () => expect(readFrame(message("VLO2")).kind).toBe("overlay"));

  it("refuses anything else", () => {
    expect(() => readFrame(new ArrayBuffer(100))).toThrow("not a picture");
    expect(() => readFrame(message().slice(0, 20))).toThrow("not a picture");
  });
});
