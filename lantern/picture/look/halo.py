"""Halo: a ring around what is bright, each wavelength at a radius of its own, as a fine mist on the lens makes it."""

import math
from functools import partial

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import EXACT
from lantern.picture.look.colours import GREEN, wavelengths, weights
from lantern.picture.strips import in_strips
from lantern.scene.look import Halo


def halo_kernel(halo: Halo, size: tuple[int, int], height: float) -> np.ndarray:
    """(h, w, 3) float32 about pixel (0, 0), each channel of sum 1; `height` is that of the frame in pixels."""
    width = max(halo.width / 100 * height / 2, 0.5)
    radii = halo.radius / 100 * height * (1 + halo.spread * (wavelengths() - GREEN) / GREEN)
    # A ring as wide as it is holds light as its circumference does.
    colors = weights() / np.maximum(radii, width)[:, None]
    kernel = np.zeros((*size, 3), np.float32)
    in_strips(*size, partial(_fill, kernel, radii.astype(np.float32), np.float32(width), colors.astype(np.float32)))
    sums = kernel.sum(axis=(0, 1), dtype=np.float64)
    if (sums <= 0).any():  # the ring lies outside of the frame altogether
        kernel[0, 0] = 1.0
        return kernel
    return np.asarray(kernel / sums, np.float32)


@njit(**EXACT, cache=True)
def _fill(kernel, radii, width, colors, begin, end):
    """Fill rows [begin, end) with rings, each of a radius and of a colour."""
    height, across = kernel.shape[0], kernel.shape[1]
    for row in range(begin, end):
        y = f32(row if row < (height + 1) // 2 else row - height)
        for column in range(across):
            x = f32(column if column < (across + 1) // 2 else column - across)
            radius = math.sqrt(x * x + y * y)
            for number in range(radii.shape[0]):
                off = (radius - radii[number]) / width
                if off * off > f32(20.0):
                    continue
                ring = math.exp(f32(-0.5) * off * off)
                for channel in range(3):
                    kernel[row, column, channel] += ring * colors[number, channel]
