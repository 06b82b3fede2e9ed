"""Fresnel reflectance of dielectric boundaries and of metals, unpolarised light."""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import SMALL

_EDGE = 1.0 / 7.0
"""Cosine at which OpenPBR 1.1 (section 3.6.2) anchors the edge tint, about 82°."""
_EDGE_SCHLICK, _EDGE_DIVISOR = (1.0 - _EDGE) ** 5, 1.0 / (_EDGE * (1.0 - _EDGE) ** 6)
LEAST_IOR = f32(1.001)
"""At exactly 1 a boundary bends nothing and its half vector is undefined."""
EDGE_SCHLICK, EDGE_DIVISOR = f32(_EDGE_SCHLICK), f32(_EDGE_DIVISOR)


def fresnel_metal_exact(cosine: np.ndarray, f0: np.ndarray, edge_tint: float) -> np.ndarray:
    """`fresnel_metal_channel` in double precision, for tables; arrays are broadcast."""
    m = 1.0 - cosine
    dip = (f0 + (1.0 - f0) * _EDGE_SCHLICK) * (1.0 - edge_tint) * _EDGE_DIVISOR
    return np.clip(f0 + (1.0 - f0) * m**5 - dip * cosine * m**6, 0.0, 1.0)


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
def weighted_ior(ior, weight):
    """The index whose reflectance at normal incidence is `weight` times that of `ior` (OpenPBR 1.1, section 3.6.1)."""
    root = min(math.sqrt(max(weight, f32(0.0))) * (ior - f32(1.0)) / (ior + f32(1.0)), f32(0.98))
    return max((f32(1.0) + root) / (f32(1.0) - root), LEAST_IOR)


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
