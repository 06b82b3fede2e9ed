"""Lambertian base: f = ρ / π, and cosine-distributed directions."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import sincos_turn
from lantern.kernel.vectors import SMALL


@njit(**SMALL)
def sample_cosine(u1, u2):
    """A direction in the upper hemisphere with density cos θ / π (Malley's method)."""
    r = math.sqrt(u1)
    sine, cosine = sincos_turn(u2)
    return r * cosine, r * sine, math.sqrt(max(f32(1.0) - u1, f32(0.0)))
