"""Woven threads as a height: warp along y over weft along x where the binding says so.

Bindings as in the textile trade: plain (one over, one under), twill (two over, two under, a step aside each row), satin
of five threads (four over, one under, two steps aside each row). A repeat is one thread wide.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.kernel.vectors import EXACT, SMALL

PLAIN, TWILL, SATIN = 0, 1, 2
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_PI = f32(math.pi)


@njit(**SMALL)
def _remainder(number, of):
    rest = number % of
    return rest + of if rest < 0 else rest


@njit(**SMALL)
def warp_is_over(column, row, binding):
    """Whether at a crossing the thread along y lies above."""
    if binding == PLAIN:
        return ((column + row) & 1) == 0
    if binding == TWILL:
        return _remainder(column + row, 4) < 2
    return _remainder(column + 2 * row, 5) != 0


@njit(**SMALL)
def _round(t, gap, roundness):
    """Height across a thread, 0 in the gap beside it."""
    away = abs(t - _HALF) / max(_HALF * (_ONE - gap), f32(1e-3))
    if away >= _ONE:
        return _ZERO
    return (_ONE - roundness) + roundness * math.sqrt(_ONE - away * away)


@njit(**SMALL)
def _rise(t, over, before, after):
    """How high along its way a thread runs at t within a crossing; 1 above, 0 beneath, half between unlike ones."""
    here = _ONE if over else _ZERO
    other = before if t < _HALF else after
    there = _ONE if other else _ZERO
    share = _HALF * (_ONE + math.cos(_PI * abs(t - _HALF) * f32(2.0)))
    return here * share + _HALF * (here + there) * (_ONE - share)


@njit(**EXACT)
def weave_pattern(x, y, binding, gap, roundness):
    """Height [0, 1] of the upper thread; 0 where one sees through between threads."""
    column, row = i32(np.floor(x)), i32(np.floor(y))
    fx, fy = x - np.floor(x), y - np.floor(y)
    over = warp_is_over(column, row, binding)
    below, above = warp_is_over(column, row - 1, binding), warp_is_over(column, row + 1, binding)
    left, right = warp_is_over(column - 1, row, binding), warp_is_over(column + 1, row, binding)
    warp, weft = _round(fx, gap, roundness), _round(fy, gap, roundness)
    if warp > _ZERO:
        warp *= f32(0.4) + f32(0.6) * _rise(fy, over, below, above)
    if weft > _ZERO:
        weft *= f32(0.4) + f32(0.6) * _rise(fx, not over, not left, not right)
    return max(warp, weft)
