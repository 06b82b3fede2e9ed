"""Finished pictures as files: PNG of 8 or 16 bits, JPEG and TIFF, with the profile of their display, their size on
paper and what made them.

In: display values or light. Out: files, whole or not at all. Called by prints and the command line.
"""

import io
import struct
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
from PIL import Image

from lantern.picture.files import write_image, write_whole
from lantern.picture.icc import profile_of
from lantern.picture.told import KEY, comments_of

INCH_M = 0.0254
CICP = {"srgb": (1, 13, 0, 1), "p3": (12, 13, 0, 1), "rec1886": (1, 1, 0, 1)}
"""Primaries, transfer, no matrix, full range (ITU-T H.273; PNG third edition, section 11.3.2.6)."""
_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_ROWS_AT_ONCE = 64


@dataclass(frozen=True)
class Told:
    """What a file says of its picture: the display it is made for, dots an inch, and what made it as `told.packed`."""

    encoding: str = "srgb"
    dpi: int | None = None
    text: str = ""


def write_png(path: Path, pixels: np.ndarray, told: Told = Told()) -> None:
    """Write (h, w, 3 or 4) uint8 or uint16 display values. Raises OSError when the file cannot be written."""
    height, width, channels = pixels.shape
    depth, kind = 8 * pixels.itemsize, {3: 2, 4: 6}[channels]

    def pieces() -> Iterator[bytes]:
        yield _SIGNATURE + _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, depth, kind, 0, 0, 0))
        yield _chunk(b"cICP", bytes(CICP[told.encoding]))
        if told.encoding == "srgb":
            yield _chunk(b"sRGB", b"\0")  # perceptual intent; no profile may stand beside it (section 11.3.2.5)
        else:
            yield _chunk(b"iCCP", told.encoding.encode() + b"\0\0" + zlib.compress(profile_of(told.encoding)))
        if told.dpi is not None:
            dots = round(told.dpi / INCH_M)
            yield _chunk(b"pHYs", struct.pack(">IIB", dots, dots, 1))
        if told.text:
            yield _chunk(b"tEXt", KEY.encode() + b"\0" + told.text.encode("ascii"))
        yield from _packed_rows(pixels)
        yield _chunk(b"IEND", b"")

    write_whole(path, pieces())


def _chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def _packed_rows(pixels: np.ndarray) -> Iterator[bytes]:
    """The picture as chunks; each row is told by what differs from the one above (filter 2, section 9.2)."""
    height = pixels.shape[0]
    packer = zlib.compressobj(6)
    above = np.zeros((1, pixels[0].nbytes), np.uint8)
    for begin in range(0, height, _ROWS_AT_ONCE):
        block = pixels[begin : begin + _ROWS_AT_ONCE]
        rows = np.ascontiguousarray(block.astype(block.dtype.newbyteorder(">"))).view(np.uint8)
        rows = rows.reshape(len(block), -1)
        differing = rows - np.concatenate([above, rows[:-1]])
        above = rows[-1:]
        filtered = np.concatenate([np.full((len(rows), 1), 2, np.uint8), differing], axis=1)
        if packed := packer.compress(filtered.tobytes()):
            yield _chunk(b"IDAT", packed)
    yield _chunk(b"IDAT", packer.flush())


def write_jpeg(path: Path, pixels: np.ndarray, quality: int, told: Told) -> None:
    """Write (h, w, 3) uint8 display values, colours as fine as brightness; `quality` 1 to 100. Raises OSError."""
    target = io.BytesIO()
    profile = profile_of(told.encoding)
    dots = {} if told.dpi is None else {"dpi": (told.dpi, told.dpi)}
    Image.fromarray(pixels[..., :3]).save(
        target, "JPEG", quality=quality, subsampling=0, optimize=True, icc_profile=profile, **dots
    )
    whole = target.getvalue()
    # Behind the first segment, which JFIF wants to be its own.
    after = 4 + int.from_bytes(whole[4:6], "big")
    write_whole(path, [whole[:after], comments_of(told.text), whole[after:]])


def write_tiff(path: Path, pixels: np.ndarray, told: Told) -> None:
    """Write (h, w, 3 or 4): uint16 display values with their profile, or float32 linear light of Rec. 709 without one.

    Raises ImageError when the file cannot be written.
    """
    height, width, channels = pixels.shape
    is_light = pixels.dtype == np.float32
    spec = oiio.ImageSpec(width, height, channels, oiio.FLOAT if is_light else oiio.UINT16)
    spec.attribute("compression", "zip")
    if channels == 4 and not is_light:
        spec.attribute("oiio:UnassociatedAlpha", 1)
    if not is_light:
        profile = profile_of(told.encoding)
        spec.attribute("ICCProfile", oiio.TypeDesc(f"uint8[{len(profile)}]"), np.frombuffer(profile, np.uint8))
    if told.dpi is not None:
        spec.attribute("XResolution", float(told.dpi))
        spec.attribute("YResolution", float(told.dpi))
        spec.attribute("ResolutionUnit", "in")
    if told.text:
        spec.attribute("ImageDescription", f"{KEY} {told.text}")
    write_image(path, spec, pixels)
