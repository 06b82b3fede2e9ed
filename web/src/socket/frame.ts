/** Picture messages of the viewport socket; the layout is in docs/protocol.md. */

export type Vector = [number, number, number];

/** The camera that a picture was made with: what is drawn over it must be drawn with this one. */
export interface PictureCamera {
  position: Vector;
  target: Vector;
  focal_length: number;
  sensor_width: number;
  shift_x: number;
  shift_y: number;
  distortion: number;
  /** Degrees. */
  roll: number;
  orthographic: boolean;
}

export interface Frame {
  kind: "frame" | "overlay";
  pane: number;
  revision: number;
  serial: number;
  samples: number;
  width: number;
  height: number;
  full: { width: number; height: number };
  region: { x: number; y: number; width: number; height: number };
  camera: PictureCamera;
  lossless: boolean;
  settled: boolean;
  denoised: boolean;
  coarse: boolean;
  picture: Blob;
}

const HEADER_BYTES = 84;
const KINDS: Record<number, Frame["kind"]> = { 1447839282: "frame", 1447841586: "overlay" };
const PNG = 1;
const SETTLED = 1;
const DENOISED = 2;
const COARSE = 4;
const ORTHOGRAPHIC = 8;

/** Read a picture message. Throws for anything else. */
export function readFrame(message: ArrayBuffer): Frame {
  const view = new DataView(message);
  const kind = message.byteLength < HEADER_BYTES ? undefined : KINDS[view.getUint32(0)];
  if (!kind) throw new Error("not a picture message");
  const short = (at: number) => view.getUint16(at, true);
  const float = (at: number) => view.getFloat32(at, true);
  const codec = view.getUint8(32);
  const flags = view.getUint8(33);
  return {
    kind,
    revision: view.getUint32(4, true),
    serial: view.getUint32(8, true),
    samples: view.getUint32(12, true),
    width: short(16),
    height: short(18),
    full: { width: short(20), height: short(22) },
    region: { x: short(24), y: short(26), width: short(28), height: short(30) },
    pane: short(34),
    camera: {
      position: [float(36), float(40), float(44)],
      target: [float(48), float(52), float(56)],
      focal_length: float(60),
      sensor_width: float(64),
      shift_x: float(68),
      shift_y: float(72),
      distortion: float(76),
      roll: float(80),
      orthographic: (flags & ORTHOGRAPHIC) !== 0,
    },
    lossless: codec === PNG,
    settled: (flags & SETTLED) !== 0,
    denoised: (flags & DENOISED) !== 0,
    coarse: (flags & COARSE) !== 0,
    picture: new Blob([message.slice(HEADER_BYTES)], { type: codec === PNG ? "image/png" : "image/jpeg" }),
  };
}
