"""Picture messages: a fixed little-endian header and then the encoded picture. The layout is in `docs/protocol.md`."""

import struct
from dataclasses import dataclass

FRAME, OVERLAY = b"VLF2", b"VLO2"
HEADER = struct.Struct("<4sIIIHHHHHHHHBBH12f")
JPEG, PNG = 0, 1
SETTLED, DENOISED, COARSE, ORTHOGRAPHIC = 1, 2, 4, 8


@dataclass(frozen=True)
class FrameInfo:
    """What a picture message shows."""

    revision: int  # of the committed document
    serial: int  # of the newest message of this window that it shows
    samples: int
    width: int  # pixels of the encoded picture
    height: int
    full: tuple[int, int]  # pixels of the whole frame
    region: tuple[int, int, int, int]  # x, y, width, height of what is shown, in pixels of the whole frame
    codec: int
    flags: int
    pane: int
    camera: tuple[float, ...]
    """Position, target [m], focal length, sensor width, shift x, shift y [mm], distortion, roll [°]."""
    kind: bytes = FRAME


def pack_frame(info: FrameInfo, picture: bytes) -> bytes:
    """Header and picture."""
    header = HEADER.pack(
        info.kind, info.revision, info.serial, info.samples, info.width, info.height,
        *info.full, *info.region, info.codec, info.flags, info.pane, *info.camera,
    )  # fmt: skip
    return header + picture


def unpack_frame(message: bytes) -> tuple[FrameInfo, bytes]:
    """The inverse of `pack_frame`. Raises ValueError for something else."""
    if message[:4] not in (FRAME, OVERLAY):
        raise ValueError("not a picture message")
    kind, revision, serial, samples, width, height, *rest = HEADER.unpack_from(message)
    info = FrameInfo(
        revision, serial, samples, width, height, (rest[0], rest[1]), tuple(rest[2:6]),
        codec=rest[6], flags=rest[7], pane=rest[8], camera=tuple(rest[9:]), kind=kind,
    )  # fmt: skip
    return info, message[HEADER.size :]
