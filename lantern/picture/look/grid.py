"""The grid on which light is spread: the frame in at most 640 pixels, whatever the size of the picture.

In: a picture. Out: the same on the grid, and back. Called by what spreads light, so that a proof and a print of 16k
spread it alike, and at the same cost.
"""

import numpy as np
from PIL import Image

from lantern.picture.strips import at_once

LONGER_SIDE = 640


def grid_size(height: int, width: int) -> tuple[int, int]:
    """(height, width) of the grid for a picture; a smaller one is its own grid."""
    longer = max(height, width)
    if longer <= LONGER_SIDE:
        return height, width
    return max(round(height * LONGER_SIDE / longer), 1), max(round(width * LONGER_SIDE / longer), 1)


def resized(plane: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """(h, w) float32 in another size: the mean over the area of each pixel when smaller, else linear between them."""
    if plane.shape == size:
        return plane
    height, width = size
    way = Image.Resampling.BOX if height <= plane.shape[0] else Image.Resampling.BILINEAR
    return np.asarray(Image.fromarray(np.ascontiguousarray(plane, np.float32)).resize((width, height), way))


def shrunk(planes: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """(n, h, w) float32 as (n, *size), plane beside plane."""
    found = np.empty((len(planes), *size), np.float32)

    def work(begin: int, end: int) -> None:
        for number in range(begin, end):
            found[number] = resized(planes[number], size)

    at_once(len(planes), work)
    return found


def offsets(size: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
    """(y, x) in pixels of a kernel of (height, width) about its pixel (0, 0), the far half wrapped to negative ones."""
    height, width = size
    y = (np.arange(height) + height // 2) % height - height // 2
    x = (np.arange(width) + width // 2) % width - width // 2
    return y[:, None].astype(np.float32), x[None, :].astype(np.float32)
