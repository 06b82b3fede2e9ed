"""How many samples each block of pixels of a frame gets, so that the finished picture is good enough soonest.

In: the finished picture of a film at two counts of samples, rays by block. Out: samples by block. Called by
`engine.planning`. What two finished pictures differ by, of which the second has twice the samples of the first, is the
error of the second as far as it is noise: the variance of a mean over n is that of the difference between it and the
mean over its first half. Denoiser, look and display are in it, so that ground that is clean after four samples is left
alone, and grain that the denoiser keeps is not. A plan is made once and kept with its film: however passes are split,
and wherever they are made, the film is the same.
"""

import numpy as np
from scipy import ndimage

from lantern.film.blocks import block_means

HALF, WHOLE = 2, 4
"""Samples of the two pictures."""
PLAIN_FALL, DENOISED_FALL = 1.0, 0.75
"""Powers by which the squared error falls: a denoiser takes the easier part of it at once."""
_CHEAPEST = 0.05
"""Of the mean cost, that a block has at least: of sky nothing is counted."""
_SMOOTH = np.outer((1, 2, 1), (1, 2, 1)) / 16
_BESIDE = 0.5
"""Of a neighbour's samples, that a block has at least: no edge is seen between them."""
_FLOOR = (0.25 / 255) ** 2
"""Squared error below which nothing is believed of two pictures in 8 bits."""
_HALVINGS = 60


def errors_of(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """(rows, columns) mean squared error of `second` [1 for black to white]; both (h, w, 3) uint8 display values."""
    apart = (first.astype(np.float32) - second.astype(np.float32)) / np.float32(255)
    squared = block_means((apart**2).mean(axis=-1, dtype=np.float64))
    return np.asarray(np.maximum(ndimage.convolve(squared, _SMOOTH, mode="nearest"), _FLOOR))


def planned(
    errors: np.ndarray, costs: np.ndarray, target: float, most: int, *, fall: float = DENOISED_FALL
) -> np.ndarray:
    """(rows, columns) int32 samples by block at which what is not clean at once has the error `target` [1 for black
    to white], as root of the mean square.

    `errors` are squared, at WHOLE samples, and fall by the power `fall` as those grow; `costs` are relative. At the
    least cost all blocks gain as much by one ray more (Lagrange). From WHOLE to `most`, which the target may ask for in
    vain.
    """
    worth = (errors / np.maximum(costs, costs.mean() * _CHEAPEST)) ** (1 / (1 + fall))
    unclean = errors > target**2
    if not unclean.any():
        return np.full(errors.shape, WHOLE, np.int32)

    def counts(scale: float) -> np.ndarray:
        return np.asarray(np.clip(worth * scale, WHOLE, most))

    low, high = 0.0, most / worth[unclean].min()
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        left = (errors * (WHOLE / counts(middle)) ** fall)[unclean].mean()
        low, high = (low, middle) if left <= target**2 else (middle, high)
    found = counts(high)
    beside = ndimage.maximum_filter(found, 3, mode="nearest")
    return _in_steps(np.maximum(found, _BESIDE * beside), most)


def _in_steps(counts: np.ndarray, most: int) -> np.ndarray:
    """Counts rounded up to eighths of their power of two: each count that there is costs a pass over the frame."""
    step = np.maximum(2.0 ** (np.floor(np.log2(counts)) - 3), 1.0)
    return np.minimum(np.ceil(counts / step) * step, most).astype(np.int32)
