"""The rough diffuse base: energy-preserving Oren-Nayar (EON), which is Lambert's law at roughness 0.

Portsmouth, Kutz & Hill, "EON: A Practical Energy-Preserving Rough Diffuse BRDF", JCGT 14(1), 2025; listing 1.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI, sincos_turn
from lantern.kernel.vectors import SMALL

_C1 = f32(0.5 - 2.0 / (3.0 * math.pi))
_C2 = f32(2.0 / 3.0 - 28.0 / (15.0 * math.pi))


@njit(**SMALL)
def sample_cosine(u1, u2):
    """A direction in the upper hemisphere with density cos θ / π (Malley's method)."""
    r = math.sqrt(u1)
    sine, cosine = sincos_turn(u2)
    return r * cosine, r * sine, math.sqrt(max(f32(1.0) - u1, f32(0.0)))


@njit(**SMALL)
def fujii_albedo(cosine, roughness):
    """Directional albedo of the single-scattering lobe of unit reflectance; a fit within 1e-3 of the closed form."""
    m = f32(1.0) - cosine
    g = m * (f32(0.0571085289) + m * (f32(0.491881867) + m * (f32(-0.332181442) + m * f32(0.0714429953))))
    return (f32(1.0) + roughness * g) / (f32(1.0) + _C1 * roughness)


@njit(**SMALL)
def fujii_mean_albedo(roughness):
    """Cosine-weighted mean of `fujii_albedo` over the hemisphere, exact."""
    return (f32(1.0) + _C2 * roughness) / (f32(1.0) + _C1 * roughness)


@njit(**SMALL)
def diffuse_value(color, roughness, lost_o, wo, wi):
    """f [1/sr] for each colour channel; `lost_o` is 1 - fujii_albedo(wo.z). Without the cosine."""
    if roughness <= f32(0.0):
        return color[0] * INV_PI, color[1] * INV_PI, color[2] * INV_PI
    s = wo[0] * wi[0] + wo[1] * wi[1]
    s_over_t = s / max(max(wo[2], wi[2]), f32(1e-6)) if s > f32(0.0) else s
    single = INV_PI / (f32(1.0) + _C1 * roughness) * (f32(1.0) + roughness * s_over_t)
    mean = fujii_mean_albedo(roughness)
    again = max(lost_o, f32(1e-7)) * max(f32(1.0) - fujii_albedo(wi[2], roughness), f32(1e-7))
    again *= INV_PI * mean / max(f32(1.0) - mean, f32(1e-7))
    return (
        color[0] * (single + again * color[0] / (f32(1.0) - color[0] * (f32(1.0) - mean))),
        color[1] * (single + again * color[1] / (f32(1.0) - color[1] * (f32(1.0) - mean))),
        color[2] * (single + again * color[2] / (f32(1.0) - color[2] * (f32(1.0) - mean))),
    )
