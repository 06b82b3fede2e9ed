"""Surfaces that are made: knurled metal, knitted cloth, the grain of leather.

Knurl: two cuts across one another (or one), their flanks straight, as the tool leaves them. Knit: the legs of
stockinette stitches, two a repeat, mirrored. Leather: the borders of cells in a bent domain, finer cells within.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.vectors import EXACT, SMALL
from lantern.pattern.cells import BORDERS, cells_pattern
from lantern.pattern.noise import gradient_noise
from lantern.pattern.regular import smooth_step

_ZERO, _ONE, _HALF, _TWO = f32(0.0), f32(1.0), f32(0.5), f32(2.0)
_PI = f32(math.pi)


@njit(**SMALL)
def _flank(t):
    """0 at whole numbers, 1 half way between, straight."""
    return _ONE - _TWO * abs(t - np.floor(t) - _HALF)


@njit(**EXACT)
def knurl_pattern(x, y, straight, flat):
    """[0, 1]: pyramids between crossed cuts, or ridges along y; a share `flat` of the height is cut from their tops."""
    height = _flank(x) if straight != 0 else min(_flank(x + y), _flank(x - y))
    return min(height / max(_ONE - flat, f32(1e-3)), _ONE)


@njit(**EXACT)
def knit_pattern(x, y, slant, gap):
    """[0, 1]: height of the yarn of stitches a repeat wide and high, whose legs lean by `slant`."""
    away = abs(x - np.floor(x) - _HALF)
    across = abs(away - f32(0.25)) / (f32(0.25) * max(_ONE - gap, f32(1e-3)))
    if across >= _ONE:
        return _ZERO
    along = y - slant * away * _TWO
    along -= np.floor(along)
    stitch = math.sin(_PI * along)
    return math.sqrt(_ONE - across * across) * (f32(0.45) + f32(0.55) * math.sqrt(max(stitch, _ZERO)))


@njit(**EXACT)
def leather_pattern(x, y, z, seed, crease, fine):
    """[0, 1]: 0 in the creases of the grain, up to 1 on it; `fine` is how much finer grain shows within."""
    bend = f32(0.25) * gradient_noise(x * _TWO, y * _TWO, z * _TWO, u32(seed) + u32(11))
    x, y, z = x + bend, y - bend, z + bend
    coarse = smooth_step((_ONE - cells_pattern(x, y, z, seed, BORDERS, f32(0.9))) / max(crease, f32(1e-3)))
    small = _ONE - cells_pattern(x * f32(3.0), y * f32(3.0), z * f32(3.0), u32(seed) + u32(5), BORDERS, _ONE)
    return coarse * (_ONE - fine * (_ONE - smooth_step(small * f32(1.5))))
