"""Bloom: a soft glow with long tails around what is bright.

The profile is Moffat's (Astronomy and Astrophysics 3, 1969, p. 455), by which stars spread on a plate: (1 + r²/s²)^-β.
"""

import numpy as np

from lantern.picture.look.grid import offsets
from lantern.scene.look import Bloom

BETA = 1.75
_FINE = 5
"""Points across a pixel near the middle, where the profile is steep."""
_NEAR = 6


def bloom_kernel(bloom: Bloom, size: tuple[int, int], height: float) -> np.ndarray:
    """(h, w, 1) float32 about pixel (0, 0) that sums to 1; `height` is that of the frame in pixels.

    Half of the light falls within the size.
    """
    # A Moffat profile holds 1 - (1 + r²/s²)^(1-β) of its light within r.
    width = bloom.size / 100 * height / np.sqrt(0.5 ** (1 / (1 - BETA)) - 1)
    y, x = offsets(size)
    kernel = _moffat(y, x, width)
    fine = (np.arange(_FINE) + 0.5) / _FINE - 0.5
    near_y, near_x = (np.arange(-min(_NEAR, n // 2), min(_NEAR, (n - 1) // 2) + 1) for n in size)
    inner = np.zeros((len(near_y), len(near_x)), np.float32)
    for dy in fine:
        for dx in fine:
            inner += _moffat(near_y[:, None] + dy, near_x[None, :] + dx, width)
    kernel[np.ix_(near_y, near_x)] = inner / _FINE**2
    return np.asarray(kernel / kernel.sum(dtype=np.float64))[..., None].astype(np.float32)


def _moffat(y: np.ndarray, x: np.ndarray, width: float) -> np.ndarray:
    return np.asarray((1 + (x * x + y * y) / (width * width)) ** -BETA)
