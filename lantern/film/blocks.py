"""Blocks of pixels: what settles, or has its samples planned, as one.

In: an array of a frame or of its region. Out: means by block, and values of blocks over their pixels. Called by `film`
and `plan`. Whole blocks, because the estimate of a single pixel that has missed a rare bright path is too low.
"""

import numpy as np

BLOCK = 16
"""Side in pixels."""


def shape_of(width: int, height: int) -> tuple[int, int]:
    """Rows and columns of blocks of a frame."""
    return -(-height // BLOCK), -(-width // BLOCK)


def block_means(values: np.ndarray) -> np.ndarray:
    """(rows, columns) means of (h, w) over the blocks; those at the edges are of the pixels that they have."""
    rows, columns = (np.arange(0, size, BLOCK) for size in values.shape)
    sums = np.add.reduceat(np.add.reduceat(values, rows, 0), columns, 1)
    counts = np.outer(np.diff(np.append(rows, values.shape[0])), np.diff(np.append(columns, values.shape[1])))
    return np.asarray(sums / counts)


def spread(blocks: np.ndarray, width: int, height: int) -> np.ndarray:
    """(h, w) with the value of its block at each pixel."""
    return np.asarray(np.repeat(np.repeat(blocks, BLOCK, 0), BLOCK, 1)[:height, :width])
