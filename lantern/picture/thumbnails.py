"""Small pictures for the shelf."""

import numpy as np

from lantern.picture.display import to_display

WIDTH, HEIGHT = 256, 128


def environment_thumbnail(pixels: np.ndarray) -> np.ndarray:
    """(128, 256, 3) uint8 of a map, exposed so that its mean becomes middle grey."""
    rows = np.arange(HEIGHT + 1) * pixels.shape[0] // HEIGHT
    columns = np.arange(WIDTH + 1) * pixels.shape[1] // WIDTH
    small = np.empty((HEIGHT, WIDTH, 3), np.float32)
    for y in range(HEIGHT):
        band = pixels[rows[y] : max(rows[y + 1], rows[y] + 1)].mean(axis=0)
        for x in range(WIDTH):
            small[y, x] = band[columns[x] : max(columns[x + 1], columns[x] + 1)].mean(axis=0)
    # The median is not led astray by a sun.
    middle = float(np.median(small.mean(axis=2)))
    return to_display(small, float(np.log2(0.18 / max(middle, 1e-6))), "filmic")
