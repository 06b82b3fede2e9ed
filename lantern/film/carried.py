"""A whole picture carried over to an edited scene by two coarse ones, before and after it, of the same samples.

In: the denoised whole picture before, denoised coarse pictures before and after whose noise is the same. Out: the whole
picture times the ratio of the coarse ones. Called by the live view for edits that leave camera and parts in place.
Riklin-Raviv & Shashua, "The Quotient Image", CVPR 1999: under another light, or with another colour, a surface changes
by a ratio that is smooth where its detail is not. Where the old picture is black or the ratio is wild, the new coarse
picture stands alone.
"""

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import address, load_f32, store_f32
from lantern.kernel.vectors import EXACT, SMALL

DARK_SHARE = 0.02
"""Share of the coarse picture's mean that is added to both sides of a ratio: black has none."""
TAME, WILD = f32(4.0), f32(16.0)
"""Ratios (or their reciprocals) up to which the whole picture is trusted, and from which the coarse one is."""
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)


@njit(**SMALL)
def _blend(field, at, across, down, x, y):
    """Bilinear value of channel `at` of a field; `across` and `down` are steps to the next texels."""
    a, b = load_f32(field, at), load_f32(field, at + across)
    c, d = load_f32(field, at + down), load_f32(field, at + down + across)
    top, low = a + (b - a) * x, c + (d - c) * x
    return top + (low - top) * y


@njit(cache=True, **EXACT)
def _carry(whole, ratio, coarse, trust, out, width, height, small_width, small_height):
    """Fill (height, width, 3) `out`. Addresses; `ratio`, `coarse`, `trust` are (small_height, small_width, 3)."""
    for row in range(height):
        v = (f32(row) + _HALF) * f32(small_height) / f32(height) - _HALF
        v = min(max(v, _ZERO), f32(small_height - 1))
        j = min(int(v), small_height - 2)
        for column in range(width):
            u = (f32(column) + _HALF) * f32(small_width) / f32(width) - _HALF
            u = min(max(u, _ZERO), f32(small_width - 1))
            i = min(int(u), small_width - 2)
            x, y = u - f32(i), v - f32(j)
            for c in range(3):
                at = (j * small_width + i) * 3 + c
                t = _blend(trust, at, 3, 3 * small_width, x, y)
                carried = load_f32(whole, (row * width + column) * 3 + c) * _blend(ratio, at, 3, 3 * small_width, x, y)
                fresh = _blend(coarse, at, 3, 3 * small_width, x, y)
                store_f32(out, (row * width + column) * 3 + c, fresh + (carried - fresh) * t)


def carried_over(whole: np.ndarray, before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """(h, w, 3) float32 [cd/m²] that an edited scene would show, from the `whole` picture (h, w, 3) of before it.

    `before` and `after` are coarse pictures (y, x, 3) of at least 2x2 pixels, denoised, of the same sample points.
    """
    dark = np.float32(DARK_SHARE * float(before.mean()) + 1e-6)
    ratio = (after + dark) / (before + dark)
    wild = np.maximum(ratio, 1 / np.maximum(ratio, np.float32(1e-6)))
    trust = np.clip(np.log2(WILD / wild) / np.log2(WILD / TAME), 0.0, 1.0).astype(np.float32)
    fields = [np.ascontiguousarray(field, np.float32) for field in (whole, ratio, after, trust)]
    out = np.empty_like(fields[0])
    height, width = whole.shape[:2]
    _carry(*(np.uint64(address(field)) for field in (*fields, out)), width, height, before.shape[1], before.shape[0])
    return out
