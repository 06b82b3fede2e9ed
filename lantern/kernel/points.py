"""Sample points: Owen-scrambled Sobol points in padded sets of four dimensions, and the blue-noise mask on them.

Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020 (scrambling, shuffling, padding). All pixels use
the same point of a sample, turned around the unit interval by a mask value of their own (Georgiev & Fajardo,
"Blue-noise Dithered Sampling", SIGGRAPH 2016): neighbours err differently, and the error is fine-grained. The mask is
made by void and cluster (Ulichney, "The Void-and-Cluster Method for Dither Array Generation", SPIE 1913, 1993).
In: sample numbers and a seed. Out: tables that `draw` reads.
"""

import os
from functools import cache

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32
from numpy import uint32 as u32

from lantern.kernel.cache import folder
from lantern.kernel.memory import load_f32
from lantern.kernel.random import mix, uniform
from lantern.kernel.vectors import SMALL

SET = 4
DIMENSIONS = 104
"""Columns of the table; dimensions beyond it are independent random numbers."""
MASKED = 24
"""Dimensions turned by the mask. Deeper ones are turned by a hash: nobody sees their pattern, and the mask repeats."""
MASK_SIDE = 64

# Primitive polynomials and first direction numbers of Sobol dimensions 2 to 4: Joe & Kuo, "Constructing Sobol
# Sequences with Better Two-Dimensional Projections", SIAM J. Sci. Comput. 30(5), 2008 (new-joe-kuo-6).
_JOE_KUO = [(1, 0, [1]), (2, 1, [1, 3]), (3, 1, [1, 3, 1])]


def _direction_numbers() -> np.ndarray:
    """(SET, 32) uint32: for each dimension the number that each index bit adds."""
    rows = [[1 << (31 - i) for i in range(32)]]
    for degree, polynomial, first in _JOE_KUO:
        m = list(first)
        for i in range(degree, 32):
            value = m[i - degree] ^ (m[i - degree] << degree)
            for k in range(1, degree):
                if polynomial >> (degree - 1 - k) & 1:
                    value ^= m[i - k] << k
            m.append(value)
        rows.append([m[i] << (31 - i) for i in range(32)])
    return np.array(rows, np.uint32)


_DIRECTIONS = _direction_numbers()


@njit(**SMALL)
def _reversed_bits(x):
    x = u32((x >> u32(16)) | (x << u32(16)))
    x = u32(((x & u32(0x00FF00FF)) << u32(8)) | ((x >> u32(8)) & u32(0x00FF00FF)))
    x = u32(((x & u32(0x0F0F0F0F)) << u32(4)) | ((x >> u32(4)) & u32(0x0F0F0F0F)))
    x = u32(((x & u32(0x33333333)) << u32(2)) | ((x >> u32(2)) & u32(0x33333333)))
    return u32(((x & u32(0x55555555)) << u32(1)) | ((x >> u32(1)) & u32(0x55555555)))


@njit(**SMALL)
def owen_scrambled(x, seed):
    """Nested uniform scrambling of the bits of uint32 x (Burley 2020, listings 2 and 3; hash of Laine & Karras)."""
    x = u32(_reversed_bits(x) + seed)
    x = u32(x ^ u32(x * u32(0x6C50B47C)))
    x = u32(x ^ u32(x * u32(0xB82F1E52)))
    x = u32(x ^ u32(x * u32(0xC7AFE638)))
    x = u32(x ^ u32(x * u32(0x8D22F6E6)))
    return _reversed_bits(x)


@njit(**SMALL)
def sobol(index, dimension):
    """uint32 Sobol point number `index` of one of the first SET dimensions, not scrambled."""
    result = u32(0)
    for bit in range(32):
        if (index >> u32(bit)) & u32(1):
            result = u32(result ^ _DIRECTIONS[dimension, bit])
    return result


@njit(cache=True)
def _fill_points(points, first, seeds):
    for row in range(len(points)):
        for column in range(DIMENSIONS):
            d = column % SET
            shuffled = owen_scrambled(u32(first + row), seeds[column - d, 0])
            bits = owen_scrambled(sobol(shuffled, d), seeds[column, 1])
            points[row, column] = f32(bits >> u32(8)) * f32(2.0**-24)


def sample_points(first: int, count: int, seed: int) -> np.ndarray:
    """(count, DIMENSIONS) float32 in [0, 1): the points of samples first, first + 1, …

    A point depends only on its number and the seed; sets are shuffled apart from each other.
    """
    points = np.empty((count, DIMENSIONS), np.float32)
    _fill_points(points, first, _scrambles(seed))
    return points


@cache
def _scrambles(seed: int) -> np.ndarray:
    """(DIMENSIONS, 2) uint32: what each dimension is shuffled and scrambled by."""
    return np.array([[_hash(seed, d), _hash(seed, d + 1000)] for d in range(DIMENSIONS)], np.uint32)


def _hash(seed: int, number: int) -> int:
    return int(mix(u32((seed * 0x9E3779B9 + number * 0x85EBCA6B + 0x68BC21EB) & 0xFFFFFFFF)))


@njit(cache=True)
def _void_and_cluster(side, sigma, generator_seed):
    """(side, side) ranks 0 … side² - 1; every prefix of the ranks is evenly spread on the torus."""
    count = side * side
    kernel = np.empty((side, side))
    for y in range(side):
        for x in range(side):
            dx, dy = min(x, side - x), min(y, side - y)
            kernel[y, x] = np.exp(-(dx * dx + dy * dy) / (2 * sigma * sigma))
    energy, on = np.zeros((side, side)), np.zeros((side, side), np.bool_)
    start = count // 10
    np.random.seed(generator_seed)
    for index in np.random.permutation(count)[:start]:
        y, x = index // side, index % side
        on[y, x] = True
        _spread(energy, kernel, y, x, 1.0)
    while True:
        cy, cx = _extreme(energy, on, True)
        on[cy, cx] = False
        _spread(energy, kernel, cy, cx, -1.0)
        vy, vx = _extreme(energy, on, False)
        on[vy, vx] = True
        _spread(energy, kernel, vy, vx, 1.0)
        if vy == cy and vx == cx:
            break
    ranks = np.zeros((side, side), np.int64)
    kept, kept_energy = on.copy(), energy.copy()
    for rank in range(start - 1, -1, -1):
        y, x = _extreme(energy, on, True)
        on[y, x] = False
        _spread(energy, kernel, y, x, -1.0)
        ranks[y, x] = rank
    on, energy = kept, kept_energy
    for rank in range(start, count):
        y, x = _extreme(energy, on, False)
        on[y, x] = True
        _spread(energy, kernel, y, x, 1.0)
        ranks[y, x] = rank
    return ranks


@njit(cache=True)
def _spread(energy, kernel, y, x, sign):
    side = len(energy)
    for i in range(side):
        for j in range(side):
            energy[(y + i) % side, (x + j) % side] += sign * kernel[i, j]


@njit(cache=True)
def _extreme(energy, on, clustered):
    """The fullest pixel that is on, or the emptiest that is off."""
    best, at_y, at_x = -np.inf, 0, 0
    for y in range(len(energy)):
        for x in range(len(energy)):
            if on[y, x] == clustered:
                value = energy[y, x] if clustered else -energy[y, x]
                if value > best:
                    best, at_y, at_x = value, y, x
    return at_y, at_x


def blue_noise_mask() -> np.ndarray:
    """(MASK_SIDE²,) float32 in [0, 1), kept beside the compiled kernels."""
    kept = folder() / "mask.npy"
    if kept.is_file():
        return np.ascontiguousarray(np.load(kept))
    ranks = _void_and_cluster(MASK_SIDE, 1.9, 7)
    mask = ((ranks.ravel() + 0.5) / MASK_SIDE**2).astype(np.float32)
    partial = kept.with_name(f"{os.getpid()}-{kept.name}")
    np.save(partial, mask)
    partial.replace(kept)
    return mask


@njit(**SMALL)
def draw(sampler, dimension):
    """float32 in [0, 1) for a dimension of a pixel's sample.

    `sampler` is (address of the sample's row of points, address of the mask, x, y, key of pixel, key of sample).
    """
    point, mask, x, y, pixel_key, sample_key = sampler
    if dimension >= DIMENSIONS:
        return uniform(sample_key, dimension)
    turn = f32(0.0)
    if dimension < MASKED:
        # Each dimension looks at another place of the mask: steps of the plastic number spread them evenly.
        across = (x + i32(dimension * 48)) & (MASK_SIDE - 1)
        down = (y + i32(dimension * 37)) & (MASK_SIDE - 1)
        turn = load_f32(mask, down * MASK_SIDE + across)
    else:
        turn = uniform(pixel_key, dimension)
    value = load_f32(point, dimension) + turn
    return value - f32(1.0) if value >= f32(1.0) else value
