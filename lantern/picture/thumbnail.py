"""Small pictures of textures, as controls show them.

In: texels as stored. Out: (h, w, 3 or 4) uint8. Called by the render host, and by the reader of uploads.
"""

import numpy as np

from lantern.picture.encode import shrunk

SIDE = 48
"""Pixels of the longer side."""
_READ = 4
"""Texels read for a pixel along a side: of a large texture every nth."""


LARGE_SIDE = 192
"""Pixels of the longer side of one that is chosen by."""


def image_thumbnail(texels: np.ndarray) -> np.ndarray:
    """(h, w, 4) uint8 picture of (h, w, channels) texels, whose longer side is LARGE_SIDE or less, with its alpha."""
    colors = thumbnail(texels, None, LARGE_SIDE)
    if texels.shape[2] not in (2, 4):
        return np.dstack([colors, np.full(colors.shape[:2], 255, np.uint8)])
    return np.dstack([colors, thumbnail(texels, texels.shape[2] - 1, LARGE_SIDE)[..., 0]])


def thumbnail(texels: np.ndarray, channel: int | None, side: int = SIDE) -> np.ndarray:
    """(h, w, 3) uint8 picture of (h, w, channels) texels, whose longer side is `side` or less; grey of one `channel`.

    Numbers that are not whole count from 0 to 1.
    """
    step = max(1, -(-max(texels.shape[:2]) // (_READ * side)))
    read = texels[::step, ::step]
    if channel is not None:
        read = read[..., [min(channel, read.shape[2] - 1)]]
    if read.shape[2] in (1, 2):
        read = np.repeat(read[..., :1], 3, axis=2)
    largest = np.iinfo(read.dtype).max if read.dtype.kind == "u" else 1.0
    values = np.nan_to_num(read[..., :3].astype(np.float32)) / largest
    bytes_ = np.round(np.clip(values, 0.0, 1.0) * 255).astype(np.uint8)
    height, width = bytes_.shape[:2]
    share = min(1.0, side / max(height, width))
    return shrunk(bytes_, max(1, round(width * share)), max(1, round(height * share)))
