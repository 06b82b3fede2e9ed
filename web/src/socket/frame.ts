/** Frame messages of the viewport socket; the layout is in docs/protocol.md. */

export interface Frame {
  revision: number;
  serial: number;
  samples: number;
  width: number;
  height: number;
  lossless: boolean;
  settled: boolean;
  denoised: boolean;
  coarse: boolean;
  picture: Blob;
}

const HEADER_BYTES = 64;
const PNG = 1;
const SETTLED = 1;
const DENOISED = 2;
const COARSE = 4;

/** Read a frame message. Throws for anything else. */
export function readFrame(message: ArrayBuffer): Frame {
  const view = new DataView(message);
  if (message.byteLength < HEADER_BYTES || view.getUint32(0) !== 0x564c4631)
    throw new Error("not a frame message");
  const codec = view.getUint8(28);
  const flags = view.getUint8(29);
  return {
    revision: view.getUint32(4, true),
    serial: view.getUint32(8, true),
    samples: view.getUint32(12, true),
    width: view.getUint16(16, true),
    height: view.getUint16(18, true),
    lossless: codec === PNG,
    settled: (flags & SETTLED) !== 0,
    denoised: (flags & DENOISED) !== 0,
    coarse: (flags & COARSE) !== 0,
    picture: new Blob([message.slice(HEADER_BYTES)], { type: codec === PNG ? "image/png" : "image/jpeg" }),
  };
}
