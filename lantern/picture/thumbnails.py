"""Small pictures for the shelf."""

import numpy as np

from lantern.picture.display import to_display

WIDTH, HEIGHT = 256, 128


def environment_thumbnail(pixels: np.ndarray) -> np.ndarray:
    """(128, 256, 3) uint8 of a map, exposed so that its mean becomes middle grey."""
    rows = np.arange(HEIGHT) * pixels.shape[0] // HEIGHT
    columns = np.arange(WIDTH) * pixels.shape[1] // WIDTH
    # Sums over blocks; a map smaller than the thumbnail repeats its texels.
    small = np.add.reduceat(np.add.reduceat(pixels, rows, axis=0), columns, axis=1)
    heights = np.maximum(np.diff(np.append(rows, pixels.shape[0])), 1)
    widths = np.maximum(np.diff(np.append(columns, pixels.shape[1])), 1)
    small = (small / (heights[:, None, None] * widths[None, :, None])).astype(np.float32)
    # The median is not led astray by a sun.
    middle = float(np.median(small.mean(axis=2)))
    return to_display(small, float(np.log2(0.18 / max(middle, 1e-6))), "filmic")
