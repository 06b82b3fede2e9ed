"""Frame messages: a fixed little-endian header and then the encoded picture. The layout is in `docs/protocol.md`."""

import struct
from dataclasses import dataclass

MAGIC = b"VLF1"
HEADER = struct.Struct("<4sIIIHHHHHHBBH8f")
JPEG, PNG = 0, 1
SETTLED, DENOISED, COARSE = 1, 2, 4


@dataclass(frozen=True)
class FrameInfo:
    """What a frame shows."""

    revision: int  # of the committed document
    serial: int  # of the newest view message that it shows
    samples: int
    width: int
    height: int
    codec: int
    flags: int
    camera: tuple[float, ...]  # position, target [m], focal length, sensor width [mm]


def pack_frame(info: FrameInfo, picture: bytes) -> bytes:
    """Header and picture; the region is the whole frame."""
    header = HEADER.pack(
        MAGIC, info.revision, info.serial, info.samples, info.width, info.height,
        0, 0, info.width, info.height, info.codec, info.flags, 0, *info.camera,
    )  # fmt: skip
    return header + picture


def unpack_frame(message: bytes) -> tuple[FrameInfo, bytes]:
    """The inverse of `pack_frame`. Raises ValueError for something else."""
    if message[:4] != MAGIC:
        raise ValueError("not a frame message")
    fields = HEADER.unpack_from(message)
    info = FrameInfo(*fields[1:6], codec=fields[10], flags=fields[11], camera=tuple(fields[13:]))
    return info, message[HEADER.size :]
