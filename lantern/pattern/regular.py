"""Patterns that repeat: a gradient, checks, stripes, dots, tiles with joints. One repeat is 1 long.

Edges are ramps of a width of their own instead of steps; the many samples of a pixel do the rest.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.kernel.vectors import EXACT, SMALL
from lantern.pattern.noise import hashed, share_of

_ZERO, _ONE, _HALF, _TWO = f32(0.0), f32(1.0), f32(0.5), f32(2.0)
_LEAST = f32(1e-4)


@njit(**SMALL)
def smooth_step(t):
    """0 up to 0, 1 from 1 on, a cubic between (Hermite)."""
    t = min(max(t, _ZERO), _ONE)
    return t * t * (f32(3.0) - _TWO * t)


@njit(**EXACT)
def gradient_pattern(x, repeats):
    """0 at the middle of the placement, 1 a repeat further along x; there and back if it repeats."""
    if repeats != 0:
        t = x - _TWO * np.floor(x * _HALF)
        return t if t <= _ONE else _TWO - t
    return min(max(x, _ZERO), _ONE)


@njit(**EXACT)
def checks_pattern(x, y):
    """0 and 1 by turns; a square is half a repeat wide."""
    odd = (i32(np.floor(x * _TWO)) + i32(np.floor(y * _TWO))) & 1
    return f32(odd)


@njit(**EXACT)
def stripes_pattern(x, width, softness):
    """1 on stripes along y that take a share `width` of each repeat."""
    away = abs(x - np.floor(x) - _HALF)
    soft = max(softness * _HALF * min(width, _ONE - width), _LEAST)
    return smooth_step((_HALF * width - away) / soft * _HALF + _HALF)


@njit(**EXACT)
def dots_pattern(x, y, radius, softness, staggered):
    """1 on round dots, one a repeat; every other row is shifted by half if they are staggered."""
    row = np.floor(y)
    if staggered != 0 and i32(row) & 1:
        x += _HALF
    dx, dy = x - np.floor(x) - _HALF, y - row - _HALF
    soft = max(softness * radius, _LEAST)
    return smooth_step((radius - math.sqrt(dx * dx + dy * dy)) / soft + _HALF)


@njit(**EXACT)
def tiles_pattern(x, y, seed, numbers):
    """0 in joints, up to 1 on tiles; `numbers` are joint, bevel, shift of each row, how much tiles differ."""
    joint, bevel, shift, variation = numbers
    row = np.floor(y)
    x += shift * row
    column = np.floor(x)
    dx, dy = x - column, y - row
    edge = min(min(dx, _ONE - dx), min(dy, _ONE - dy)) - _HALF * joint
    tile = _ONE - variation * share_of(hashed(column, row, _ZERO, seed))
    return tile * smooth_step(edge / max(bevel, _LEAST))
