"""Image files: HDR maps in and out through OpenImageIO; `exr` writes the layered ones, `stills` what a display shows.

Files are written beside their place and then moved there, so that none is ever half-written.
"""

import math
import os
from collections.abc import Iterable
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

MOST_PIXELS, MOST_CHANNELS = 16384 * 8192, 64
HDR_SUFFIXES = (".hdr", ".exr")


class ImageError(ValueError):
    """An image file cannot be read or written; the message names it and says why."""


def _hdr_kind(path: Path) -> str | None:
    """The suffix that the content of a file asks for, of those that hold light; None for another."""
    head = path.open("rb").read(10)
    return ".exr" if head[:4] == b"\x76\x2f\x31\x01" else ".hdr" if head[:2] == b"#?" else None


def is_hdr(path: Path, name: str) -> bool:
    """Whether a file is, by its content or its name, a Radiance HDR or an OpenEXR one."""
    return Path(name).suffix.lower() in HDR_SUFFIXES or (path.is_file() and _hdr_kind(path) is not None)


def read_hdr(path: Path, name: str | None = None) -> np.ndarray:
    """Linear (h, w, 3) float32 of a Radiance HDR or OpenEXR file; `name` is what messages call it.

    One that says how bright its white is comes in cd/m² (OpenEXR, "Standard Attributes", whiteLuminance).

    Raises ImageError for another format, an unreadable or too large file, or one without three colours.
    """
    shown = name or path.name
    if not path.is_file():
        raise ImageError(f"{shown}: there is no such file")
    if _hdr_kind(path) is None:
        raise ImageError(f"{shown}: is neither a Radiance HDR nor an OpenEXR file")
    reader = oiio.ImageInput.open(str(path)) or None
    if reader is None:
        raise ImageError(f"{shown}: cannot be read ({oiio.geterror().strip()})")
    try:
        spec = reader.spec()
        if spec.width * spec.height > MOST_PIXELS:
            raise ImageError(f"{shown}: has {spec.width}x{spec.height} pixels; the limit is {MOST_PIXELS}")
        if spec.nchannels > MOST_CHANNELS:
            raise ImageError(f"{shown}: has {spec.nchannels} channels; the limit is {MOST_CHANNELS}")
        # The colours come first, whatever else there is: depth, mattes and the like are not even decoded.
        pixels = reader.read_image(0, 0, 0, min(spec.nchannels, 3), oiio.FLOAT)
        if pixels is None or pixels.ndim != 3:
            raise ImageError(f"{shown}: is truncated or damaged ({reader.geterror().strip()})")
        white = spec.get_float_attribute("whiteLuminance", 1.0)
        if math.isfinite(white) and white > 0 and white != 1.0:
            pixels *= np.float32(white)
    finally:
        reader.close()
    if pixels.shape[2] == 1:
        pixels = np.repeat(pixels, 3, axis=2)
    if pixels.shape[2] < 3 or min(pixels.shape[:2]) < 2:
        raise ImageError(f"{shown}: needs red, green and blue and at least 2x2 pixels")
    return np.ascontiguousarray(pixels[..., :3], np.float32)


Rows = tuple[int, int]
"""The first row of some of a picture, and the one behind their last."""


class BandWriter:
    """An image file that is written some rows at a time."""

    def __init__(self, path: Path, spec: oiio.ImageSpec) -> None:
        """`spec` says what will be written. Raises ImageError when the file cannot be begun."""
        path.parent.mkdir(parents=True, exist_ok=True)
        self._path, self._partial = path, path.with_name(f".{path.stem}.partial{path.suffix}")
        self._top = spec.y
        output = oiio.ImageOutput.create(str(self._partial))
        if output is None or not output.open(str(self._partial), spec):
            self._partial.unlink(missing_ok=True)
            raise ImageError(f"{path.name}: cannot be written ({oiio.geterror().strip()})")
        self._output = output

    def write(self, first: int, pixels: np.ndarray) -> None:
        """Write rows (n, w, channels) from row `first` on, all before which are written. Raises ImageError."""
        top = self._top + first
        if not self._output.write_scanlines(top, top + len(pixels), 0, np.ascontiguousarray(pixels)):
            raise ImageError(f"{self._path.name}: cannot be written ({self._output.geterror().strip()})")

    def finish(self) -> None:
        """Have the file whole in its place. Raises ImageError."""
        # What was buffered is written now: a full disk may be noticed here first.
        if not self._output.close():
            raise ImageError(f"{self._path.name}: cannot be written ({self._output.geterror().strip()})")
        with self._partial.open("rb") as written:
            os.fsync(written.fileno())  # whole on the disk before it has its name
        os.replace(self._partial, self._path)

    def __enter__(self) -> "BandWriter":
        return self

    def __exit__(self, kind: object, *_: object) -> None:
        try:
            if kind is None:
                self.finish()
            else:
                self._output.close()
        finally:
            self._partial.unlink(missing_ok=True)


def write_image(path: Path, spec: oiio.ImageSpec, pixels: np.ndarray) -> None:
    """Write pixels as `spec` says, whole or not at all. Raises ImageError when the file cannot be written."""
    with BandWriter(path, spec) as writer:
        writer.write(0, pixels)


def write_whole(path: Path, pieces: Iterable[bytes]) -> None:
    """Write pieces of bytes, whole or not at all. Raises OSError when the file cannot be written."""
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(f".{path.stem}.partial{path.suffix}")
    try:
        with partial.open("wb") as target:
            for piece in pieces:
                target.write(piece)
            target.flush()
            os.fsync(target.fileno())
        os.replace(partial, path)
    except OSError:
        partial.unlink(missing_ok=True)
        raise


def write_map(path: Path, pixels: np.ndarray) -> None:
    """Write (h, w, 3) float32 [cd/m²] as an OpenEXR map of latitude and longitude.

    The standard attribute whiteLuminance says that 1 is 1 cd/m² (OpenEXR, "Standard Attributes").
    """
    height, width, _ = pixels.shape
    spec = oiio.ImageSpec(width, height, 3, oiio.FLOAT)
    spec.attribute("compression", "zip")
    spec.attribute("textureformat", "LatLong Environment")
    spec.attribute("whiteLuminance", 1.0)
    write_image(path, spec, pixels.astype(np.float32))


def write_radiance_hdr(path: Path, pixels: np.ndarray) -> None:
    """Write linear (h, w, 3) float32 as Radiance HDR."""
    height, width, _ = pixels.shape
    write_image(path, oiio.ImageSpec(width, height, 3, oiio.FLOAT), pixels.astype(np.float32))
