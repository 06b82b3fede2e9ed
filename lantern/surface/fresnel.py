"""Fresnel reflectance of dielectric boundaries and of metals, unpolarised light."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import SMALL

# Where OpenPBR 1.1 (section 3.6.2) anchors the edge tint: μ̄ = 1/7, about 82°.
EDGE_COSINE = f32(1.0 / 7.0)
EDGE_SCHLICK = f32((1.0 - 1.0 / 7.0) ** 5)
EDGE_DIVISOR = f32(1.0 / (1.0 / 7.0 * (1.0 - 1.0 / 7.0) ** 6))


@njit(**SMALL)
def fresnel_dielectric(cosine, eta):
    """Reflectance [0, 1] for |cos θ| of the incident side and eta = n_beyond / n_incident; 1 when totally reflected.

    Born & Wolf, "Principles of Optics", section 1.5.2, equations 21 and 21a.
    """
    c = min(abs(cosine), f32(1.0))
    square = f32(1.0) - (f32(1.0) - c * c) / (eta * eta)
    if square <= f32(0.0):
        return f32(1.0)
    t = math.sqrt(square)
    parallel = (eta * c - t) / (eta * c + t)
    perpendicular = (c - eta * t) / (c + eta * t)
    return f32(0.5) * (parallel * parallel + perpendicular * perpendicular)


@njit(**SMALL)
def fresnel_metal_channel(cosine, f0, edge_tint):
    """One colour channel of the F82-tint metal: Schlick with a correction at 82° (OpenPBR 1.1, section 3.6.2).

    `f0` is reflectance at normal incidence, `edge_tint` multiplies Schlick's value at 82°; both [0, 1].
    """
    m = f32(1.0) - min(cosine, f32(1.0))
    m2 = m * m
    m5 = m2 * m2 * m
    schlick = f0 + (f32(1.0) - f0) * m5
    dip = (f0 + (f32(1.0) - f0) * EDGE_SCHLICK) * (f32(1.0) - edge_tint) * EDGE_DIVISOR
    return max(schlick - dip * cosine * m5 * m, f32(0.0))


@njit(**SMALL)
def fresnel_metal(cosine, f0, edge_tint):
    """RGB reflectance of the F82-tint metal."""
    return (
        fresnel_metal_channel(cosine, f0[0], edge_tint[0]),
        fresnel_metal_channel(cosine, f0[1], edge_tint[1]),
        fresnel_metal_channel(cosine, f0[2], edge_tint[2]),
    )
