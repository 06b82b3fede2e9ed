"""Gradient noise, and sums of its octaves.

Perlin, "Improving Noise", SIGGRAPH 2002: the quintic fade and the twelve gradients along the edges of a cube. Lattice
points are hashed instead of looked up, so that nothing repeats and each seed is another noise. Octaves are summed as in
Musgrave's fractional Brownian motion (Ebert et al., "Texturing and Modeling", 2003, ch. 16).
"""

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32
from numpy import uint32 as u32

from lantern.kernel.random import TWO_TO_MINUS_24, mix
from lantern.kernel.vectors import EXACT, SMALL

_ZERO, _ONE, _TWO, _HALF = f32(0.0), f32(1.0), f32(2.0), f32(0.5)
_EACH_OCTAVE = u32(0x9E3779B9)


@njit(**SMALL)
def hashed(x, y, z, seed):
    """uint32 of a lattice point."""
    return with_step(with_step(with_step(mix(u32(seed)), z), y), x)


@njit(**SMALL)
def with_step(number, step):
    """uint32 of what was hashed so far and one more whole coordinate: neighbours share all but the last steps."""
    return mix(u32(i32(step)) + number)


@njit(**SMALL)
def share_of(number):
    """[0, 1) of a hashed number."""
    return f32(number >> u32(8)) * TWO_TO_MINUS_24


@njit(**SMALL)
def _slope(number, x, y, z):
    """The way (x, y, z) along one of the twelve gradients."""
    h = number >> u32(28)
    a = x if h < 8 else y
    b = y if h < 4 else (x if h == 12 or h == 14 else z)
    return (a if h & u32(1) == 0 else -a) + (b if h & u32(2) == 0 else -b)


@njit(**SMALL)
def _fade(t):
    return t * t * t * (t * (t * f32(6.0) - f32(15.0)) + f32(10.0))


@njit(**SMALL)
def _between(a, b, t):
    return a + (b - a) * t


@njit(**EXACT)
def gradient_noise(x, y, z, seed):
    """About [-1, 1], 0 at lattice points; continuous with its second derivative."""
    i, j, k = np.floor(x), np.floor(y), np.floor(z)
    fx, fy, fz = x - i, y - j, z - k
    u, v, w = _fade(fx), _fade(fy), _fade(fz)
    x1, y1, z1 = fx - _ONE, fy - _ONE, fz - _ONE
    a, b, c = i + _ONE, j + _ONE, k + _ONE
    start = mix(u32(seed))
    near, far = with_step(start, k), with_step(start, c)
    jk, bk, jc, bc = with_step(near, j), with_step(near, b), with_step(far, j), with_step(far, b)
    front = _between(
        _between(_slope(with_step(jk, i), fx, fy, fz), _slope(with_step(jk, a), x1, fy, fz), u),
        _between(_slope(with_step(bk, i), fx, y1, fz), _slope(with_step(bk, a), x1, y1, fz), u),
        v,
    )
    back = _between(
        _between(_slope(with_step(jc, i), fx, fy, z1), _slope(with_step(jc, a), x1, fy, z1), u),
        _between(_slope(with_step(bc, i), fx, y1, z1), _slope(with_step(bc, a), x1, y1, z1), u),
        v,
    )
    return _between(front, back, w)


@njit(**EXACT)
def fractal_noise(x, y, z, seed, octaves, gain):
    """Octaves of noise, each twice as fine, weighed by powers of `gain` and divided by their sum: about [-1, 1]."""
    total, weight, weights = _ZERO, _ONE, _ZERO
    for octave in range(octaves):
        total += weight * gradient_noise(x, y, z, u32(seed) + u32(octave) * _EACH_OCTAVE)
        weights += weight
        weight *= gain
        x, y, z = x * _TWO, y * _TWO, z * _TWO
    return total / weights


@njit(**EXACT)
def noise_pattern(x, y, z, seed, octaves, gain, contrast):
    """[0, 1], 0.5 in the mean."""
    value = _HALF + _HALF * contrast * fractal_noise(x, y, z, seed, octaves, gain) * f32(1.6)
    return min(max(value, _ZERO), _ONE)
