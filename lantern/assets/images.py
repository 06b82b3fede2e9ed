"""Decoding images: values as they are stored, neither premultiplied nor cut to fewer bits.

In: the bytes of an image file of any kind that is known. Out: its texels. Called by the readers of assets.
"""

import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

MOST_TEXELS = 1 << 28
"""Of all images of one asset."""
_SUFFIXES = {
    b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"RIFF": ".webp", b"\x76\x2f\x31\x01": ".exr", b"II*\0": ".tif",
    b"MM\0*": ".tif", b"BM": ".bmp", b"#?": ".hdr",
}  # fmt: skip
_KEPT = {"uint8": oiio.UINT8, "uint16": oiio.UINT16, "half": oiio.HALF, "float": oiio.FLOAT}


class ImageProblem(ValueError):
    """An image cannot be decoded; the message says why, after its name."""


def decode_image(data: bytes, room: int = MOST_TEXELS, suffix: str | None = None) -> np.ndarray:
    """(h, w, 1 to 4) texels of an image file with at most `room` of them; bytes with colour always have four channels.

    `suffix` is its kind, for those that do not begin with a mark of their own. Raises ImageProblem.
    """
    found = next((s for magic, s in _SUFFIXES.items() if data.startswith(magic)), suffix)
    if found is None:
        raise ImageProblem("is of no kind that can be read")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"image{found}"
        path.write_bytes(data)
        return four_channels(_read(path, room))


def checked_room(width: int, height: int, room: int) -> None:
    """Raises ImageProblem when an image has more texels than there is room for."""
    if width * height > room:
        raise ImageProblem(f"has {width}x{height} texels; all images may have {MOST_TEXELS / 1e6:.0f} M")


def four_channels(texels: np.ndarray) -> np.ndarray:
    """Texels that may be read four bytes at once: bytes of three channels get a fourth."""
    if texels.dtype == np.uint8 and texels.shape[2] == 3:
        texels = np.concatenate([texels, np.full((*texels.shape[:2], 1), 255, np.uint8)], axis=2)
    return np.ascontiguousarray(texels)


def _read(path: Path, room: int) -> np.ndarray:
    wanted = oiio.ImageSpec()
    wanted.attribute("oiio:UnassociatedAlpha", 1)
    source = oiio.ImageInput.open(str(path), wanted)
    if source is None:
        raise ImageProblem(f"cannot be decoded ({oiio.geterror().strip()})")
    try:
        spec = source.spec()
        checked_room(spec.width, spec.height, room)
        texels = source.read_image(0, 0, 0, min(spec.nchannels, 4), _KEPT.get(str(spec.format), oiio.FLOAT))
        if texels is None or texels.size == 0:
            raise ImageProblem(f"cannot be decoded ({source.geterror().strip()})")
    finally:
        source.close()
    return np.asarray(texels)


class ImageStore:
    """The images of one asset: one that is asked for twice is decoded once, and all together have room."""

    def __init__(self) -> None:
        self._images: dict[object, np.ndarray] = {}
        self._room = MOST_TEXELS

    def get(self, key: object, decode: Callable[[int], np.ndarray]) -> np.ndarray:
        """The image of a name, made by `decode` of the texels there is room for. Raises what that raises."""
        if key not in self._images:
            texels = decode(self._room)
            self._room -= texels.shape[0] * texels.shape[1]
            self._images[key] = texels
        return self._images[key]
