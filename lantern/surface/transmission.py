"""Refraction through a rough boundary: directions, half vectors and the Jacobian of Walter et al. 2007."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import SMALL, normalize


@njit(**SMALL)
def refract(wo, h, eta):
    """Direction refracted at microfacet h (wo·h > 0), eta = n_beyond / n_incident.

    Returns (possible, direction); not possible when totally reflected.
    """
    c = wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2]
    inverse = f32(1.0) / eta
    square = f32(1.0) - inverse * inverse * (f32(1.0) - c * c)
    if square <= f32(0.0):
        return False, wo
    k = inverse * c - math.sqrt(square)
    return True, normalize((k * h[0] - inverse * wo[0], k * h[1] - inverse * wo[1], k * h[2] - inverse * wo[2]))


@njit(**SMALL)
def refraction_half(wo, wi, eta):
    """Half vector on wo's side that refracts wo into wi (Walter et al. 2007, equation 16)."""
    h = normalize((wo[0] + eta * wi[0], wo[1] + eta * wi[1], wo[2] + eta * wi[2]))
    return h if h[2] > f32(0.0) else (-h[0], -h[1], -h[2])


@njit(**SMALL)
def refraction_jacobian(o_dot_h, i_dot_h, eta):
    """|dh / dwi| for basic radiance (Walter et al. 2007, equation 17); i_dot_h is negative."""
    d = o_dot_h + eta * i_dot_h
    return eta * eta * abs(i_dot_h) / max(d * d, f32(1e-20))
