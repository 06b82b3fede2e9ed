"""Means of a film's sums, in one walk over its rows.

In: addresses of film rows and of the arrays to fill, 0 for one that is not wanted. Called by `film.film`, which NumPy
alone would take ten times as long for: a row is a cache line, and every expression would read all of them.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import peek_f32, peek_i32, peek_vector, store_f32, store_vector
from lantern.kernel.vectors import EXACT, dot, scale
from lantern.rays.layout import FILM

F = FILM.slots
_WIDTH = FILM.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK = (_ZERO, _ZERO, _ZERO)
_SHORTEST = f32(1e-6)
"""Length of a mean normal below which it points nowhere."""


@njit(cache=True, **EXACT)
def fill_means(film, pixels, far, radiance, alpha, albedo, normal, depth):
    """Fill (pixels, 3) float32 radiance [cd/m²] and, if `alpha` is wanted, alpha, albedo, unit normal and depth [m].

    Addresses (uint64). A pixel without samples is black and clear; `far` is the depth of one that has met nothing.
    """
    for pixel in range(pixels):
        row = pixel * _WIDTH
        share = _ONE / f32(max(peek_i32(film, row + F.samples), 1))
        store_vector(radiance, 3 * pixel, scale(peek_vector(film, row + F.radiance), share))
        if alpha == 0:
            continue
        store_f32(alpha, pixel, min(max(peek_f32(film, row + F.alpha) * share, _ZERO), _ONE))
        store_vector(albedo, 3 * pixel, scale(peek_vector(film, row + F.albedo), share))
        n = scale(peek_vector(film, row + F.normal), share)
        length = math.sqrt(dot(n, n))
        store_vector(normal, 3 * pixel, scale(n, _ONE / length) if length > _SHORTEST else _BLACK)
        hits = peek_f32(film, row + F.depth_hits)
        store_f32(depth, pixel, peek_f32(film, row + F.depth) / hits if hits > _ZERO else far)
