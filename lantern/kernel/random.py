"""Counter-based random numbers: a sample's numbers depend only on (pixel, sample, dimension, seed).

No state is carried, so any split of a frame over tiles, threads or machines draws the same numbers.
The mixing function is the two-multiply 32-bit integer hash with measured bias 0.107 found by search in
C. Wellons, "Prospecting for Hash Functions", 2018 (constants of TheIronBorn, 2022).
"""

from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.vectors import SMALL

TWO_TO_MINUS_24 = f32(2.0**-24)


@njit(**SMALL)
def mix(x):
    """A bijection of uint32 whose output bits each depend on every input bit."""
    x = u32(x ^ (x >> u32(16)))
    x = u32(x * u32(0x21F0AAAD))
    x = u32(x ^ (x >> u32(15)))
    x = u32(x * u32(0xD35A2D97))
    return u32(x ^ (x >> u32(15)))


@njit(**SMALL)
def path_key(pixel, sample, seed):
    """Key of one path; `uniform(key, dimension)` draws its numbers."""
    a = mix(u32(u32(seed) ^ u32(0x9E3779B9)))
    b = mix(u32(u32(sample) + a))
    return mix(u32(u32(pixel) ^ u32(b * u32(0x85EBCA6B)))) ^ b


@njit(**SMALL)
def uniform(key, dimension):
    """float32 in [0, 1), a multiple of 2^-24 so that it can never round up to 1."""
    return f32(mix(u32(key + u32(u32(dimension) * u32(0x9E3779B9)))) >> u32(8)) * TWO_TO_MINUS_24
