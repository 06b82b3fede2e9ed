"""The images of an asset as rows that kernels read: an address each, so that one more copies nothing.

In: textures. Out: rows of `IMAGE`. Called by `compile.compiled`.
"""

from collections.abc import Sequence

import numpy as np

from lantern.assets.textures import Texture
from lantern.kernel.memory import address
from lantern.pattern.images import FORMATS, IMAGE


def image_rows(textures: Sequence[Texture]) -> np.ndarray:
    """(n, IMAGE.width) uint64 rows, at least one; they point into the textures' own texels, which must be kept."""
    rows = np.zeros((max(len(textures), 1), IMAGE.width), np.uint64)
    for row, texture in zip(rows, textures, strict=False):
        height, width, channels = texture.texels.shape
        row[:] = IMAGE.block(
            {
                "texels": address(texture.texels),
                "width": width,
                "height": height,
                "channels": channels,
                "format": FORMATS[texture.texels.dtype],
                "wrap_u": texture.wrap_u,
                "wrap_v": texture.wrap_v,
                "nearest": int(texture.nearest),
            }
        )
    return rows
