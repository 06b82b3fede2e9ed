"""Decoding images: values as they are stored, neither premultiplied nor cut to fewer bits.

In: the bytes of an image file of any kind that is known. Out: its texels. Called by the readers of assets.
"""

import os
import tempfile
from collections.abc import Callable, Hashable, Iterable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
import OpenImageIO as oiio

MOST_TEXELS = 1 << 31
"""Of all images of one asset: 128 of 4096 × 4096."""
_SUFFIXES = {
    b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"RIFF": ".webp", b"\x76\x2f\x31\x01": ".exr", b"II*\0": ".tif",
    b"MM\0*": ".tif", b"BM": ".bmp", b"#?": ".hdr",
}  # fmt: skip
_KEPT = {"uint8": oiio.UINT8, "uint16": oiio.UINT16, "half": oiio.HALF, "float": oiio.FLOAT}


class ImageProblem(ValueError):
    """An image cannot be decoded; the message says why, after its name."""


class Room:
    """Texels that the images of one asset may still have; they may be decoded by several threads."""

    def __init__(self, texels: int = MOST_TEXELS) -> None:
        self._left, self._lock = texels, Lock()

    def take(self, width: int, height: int) -> None:
        """Use some. Raises ImageProblem when there are not so many."""
        with self._lock:
            if width * height > self._left:
                raise ImageProblem(f"has {width}x{height} texels; all images may have {MOST_TEXELS / 1e6:.0f} M")
            self._left -= width * height


def decode_image(data: bytes, room: Room | None = None, suffix: str | None = None) -> np.ndarray:
    """(h, w, 1 to 4) texels of an image file, taken from the room; bytes with colour always have four channels.

    `suffix` is its kind, for those that do not begin with a mark of their own. Raises ImageProblem.
    """
    found = next((s for magic, s in _SUFFIXES.items() if data.startswith(magic)), suffix)
    if found is None:
        raise ImageProblem("is of no kind that can be read")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"image{found}"
        path.write_bytes(data)
        return four_channels(_read(path, room or Room()))


def four_channels(texels: np.ndarray) -> np.ndarray:
    """Texels that may be read four bytes at once: bytes of three channels get a fourth."""
    if texels.dtype == np.uint8 and texels.shape[2] == 3:
        texels = np.concatenate([texels, np.full((*texels.shape[:2], 1), 255, np.uint8)], axis=2)
    return np.ascontiguousarray(texels)


def _read(path: Path, room: Room) -> np.ndarray:
    wanted = oiio.ImageSpec()
    wanted.attribute("oiio:UnassociatedAlpha", 1)
    source = oiio.ImageInput.open(str(path), wanted)
    if source is None:
        raise ImageProblem(f"cannot be decoded ({oiio.geterror().strip()})")
    try:
        spec = source.spec()
        room.take(spec.width, spec.height)
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
        self._room = Room()

    def get(self, key: object, decode: Callable[[Room], np.ndarray]) -> np.ndarray:
        """The image of a name, made by `decode`, which is told the room. Raises what that raises."""
        if key not in self._images:
            self._images[key] = decode(self._room)
        return self._images[key]

    def __getitem__(self, key: Hashable) -> np.ndarray:
        return self._images[key]

    def fill(self, keys: Iterable[Hashable], decode: Callable[[Any, Room], np.ndarray]) -> None:
        """Decode images by their names, as many at a time as there are processors. Raises what the first raises."""
        wanted = [key for key in dict.fromkeys(keys) if key not in self._images]
        with ThreadPoolExecutor(os.cpu_count()) as threads:
            for key, texels in zip(wanted, threads.map(lambda key: decode(key, self._room), wanted), strict=True):
                self._images[key] = texels
