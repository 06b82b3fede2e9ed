"""Patterns of grown and worked things: wood, marble, brushed metal.

Wood: rings about the axis y, disturbed by noise (Peachey, "Solid Texturing of Complex Surfaces", SIGGRAPH 1985), each
dark at its end, with pores drawn out along the axis. Marble: a wave disturbed by turbulence (Perlin, "An Image
Synthesizer", SIGGRAPH 1985). Brushed: noise drawn out along the lines.
"""

import math

from numba import njit
from numpy import float32 as f32
from numpy import floor
from numpy import uint32 as u32

from lantern.kernel.vectors import EXACT
from lantern.pattern.noise import fractal_noise, gradient_noise

_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_TWO_PI = f32(2.0 * math.pi)
_ALONG = f32(0.08)
"""How much slower wood changes along its axis than across."""
_PORES = u32(0x51ED27)


@njit(**EXACT)
def wood_pattern(x, y, z, seed, waviness, pores):
    """[0, 1]: a ring is a repeat wide, bright in spring and dark at its end, with dark pores."""
    bend = waviness * fractal_noise(x * _HALF, y * _ALONG, z * _HALF, seed, 3, _HALF)
    radius = math.sqrt(x * x + z * z) + bend
    ring = radius - floor(radius)
    value = _ONE - ring * ring * (_ONE if ring < f32(0.9) else (_ONE - ring) * f32(10.0))
    fine = gradient_noise(x * f32(9.0), y * _HALF, z * f32(9.0), u32(seed) + _PORES)
    value -= pores * max(fine - f32(0.15), _ZERO) * f32(1.5)
    return min(max(value, _ZERO), _ONE)


@njit(**EXACT)
def marble_pattern(x, y, z, seed, turbulence, thinness):
    """[0, 1]: 1 in veins that run across x, a repeat apart before they are disturbed."""
    bend = turbulence * fractal_noise(x, y, z, seed, 6, _HALF)
    wave = _HALF + _HALF * math.cos(_TWO_PI * (x + bend))
    return wave**thinness


@njit(**EXACT)
def brushed_pattern(x, y, seed, length, radial):
    """[0, 1]: lines along y, `length` times as long as wide, or around the middle."""
    if radial != 0:
        # The third and second axes carry the place itself, so slowly that a line goes on around, and closes.
        radius = math.sqrt(x * x + y * y) * f32(4.0)
        value = fractal_noise(radius, x * f32(4.0) / length, y * f32(4.0) / length, seed, 3, f32(0.6))
    else:
        value = fractal_noise(x * f32(4.0), y * f32(4.0) / length, _ZERO, seed, 3, f32(0.6))
    return min(max(_HALF + f32(0.9) * value, _ZERO), _ONE)
