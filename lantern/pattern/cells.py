"""Cells around scattered points: how near the middle, how near the border, or a number for each.

Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996, with one point a cube of the lattice.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.random import mix
from lantern.kernel.vectors import EXACT
from lantern.pattern.noise import share_of, with_step

MIDDLES, BORDERS, EACH = 0, 1, 2
"""What the pattern shows."""
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)


@njit(**EXACT)
def nearest_point(x, y, z, seed, irregularity):
    """(square of the distance to the nearest point, to the second, a number of the nearest's own, the way from it)."""
    i, j, k = np.floor(x), np.floor(y), np.floor(z)
    nearest, second, owner = f32(1e9), f32(1e9), u32(0)
    way = (_ZERO, _ZERO, _ZERO)
    start = mix(u32(seed))
    for dz in range(-1, 2):
        c = k + f32(dz)
        layer = with_step(start, c)
        for dy in range(-1, 2):
            b = j + f32(dy)
            row = with_step(layer, b)
            for dx in range(-1, 2):
                a = i + f32(dx)
                one = with_step(row, a)
                two = mix(one)
                px = x - a - _HALF - irregularity * (share_of(one) - _HALF)
                py = y - b - _HALF - irregularity * (share_of(two) - _HALF)
                pz = z - c - _HALF - irregularity * (share_of(mix(two)) - _HALF)
                square = px * px + py * py + pz * pz
                if square < nearest:
                    second, nearest, owner, way = nearest, square, two, (px, py, pz)
                elif square < second:
                    second = square
    return nearest, second, mix(owner ^ u32(0x85EBCA6B)), way


@njit(**EXACT)
def cells_pattern(x, y, z, seed, shows, irregularity):
    """[0, 1]: 1 at the middle of a cell falling with distance; 1 on a border; or a number of the cell's own."""
    nearest, second, number, _ = nearest_point(x, y, z, seed, irregularity)
    if shows == EACH:
        return share_of(number)
    first = math.sqrt(nearest)
    if shows == MIDDLES:
        return max(_ONE - first, _ZERO)
    return max(_ONE - (math.sqrt(second) - first) * f32(2.0), _ZERO)
