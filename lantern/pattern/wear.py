"""Where a surface is worn, or where dust stays: near edges, with a border that a noise breaks up."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import EXACT
from lantern.pattern.noise import noise_pattern
from lantern.pattern.regular import smooth_step

_ZERO, _ONE, _TWO, _HALF = f32(0.0), f32(1.0), f32(2.0), f32(0.5)
_OCTAVES, _GAIN, _CONTRAST = 4, f32(0.6), f32(1.3)
_SHARPEST = f32(0.01)


@njit(**EXACT)
def worn_pattern(near, place, seed, numbers):
    """[0, 1] of how near an edge is: 1 at it, 0 at the width, less beyond; rising with `near`.

    `numbers` are the contrast, how much the noise counts, and the size [m] of its grain; `place` [m] is in the part.
    """
    contrast, breakup, grain = numbers
    near = min(near, _ONE)
    if near <= _ZERO:
        return _ZERO
    if breakup > _ZERO:
        inverse = _ONE / grain
        noise = noise_pattern(
            place[0] * inverse, place[1] * inverse, place[2] * inverse, seed, _OCTAVES, _GAIN, _CONTRAST
        )
        near *= _ONE + breakup * (_TWO * noise - _ONE)
    half = max(_HALF * (_ONE - contrast), _SHARPEST)
    return smooth_step((near - _HALF + half) / (_TWO * half))
