"""The anisotropic GGX microfacet distribution with height-correlated Smith masking and visible-normal sampling.

Walter et al., "Microfacet Models for Refraction through Rough Surfaces", EGSR 2007 (distribution);
Heitz, "Understanding the Masking-Shadowing Function", JCGT 3(2), 2014 (anisotropy, section 5.4; G2, equation 99);
Dupuy & Benyoub, "Sampling Visible GGX Normals with Spherical Caps", CGF 42(8), 2023 (listing 3).
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI, sincos_turn
from lantern.kernel.vectors import SMALL, normalize

SMALLEST_ALPHA = 1e-3
"""A smoother surface than this is rendered as this: in float32 the lobe would lose its shape."""


@njit(**SMALL)
def ggx_density(h, alpha_x, alpha_y):
    """D(h) [1/sr] for a half vector with h.z > 0.

    sin² is taken from h.x and h.y: 1 - h.z² would cancel at small alpha.
    """
    x, y = h[0] / alpha_x, h[1] / alpha_y
    s = x * x + y * y + h[2] * h[2]
    return INV_PI / (alpha_x * alpha_y * s * s)


@njit(**SMALL)
def smith_lambda(v, alpha_x, alpha_y):
    """Smith's auxiliary Λ(v) [-]."""
    z2 = max(v[2] * v[2], f32(1e-14))
    x, y = v[0] * alpha_x, v[1] * alpha_y
    return f32(0.5) * (math.sqrt(f32(1.0) + (x * x + y * y) / z2) - f32(1.0))


@njit(**SMALL)
def sample_visible_normal(wo, alpha_x, alpha_y, u1, u2):
    """A microfacet normal with density G1(wo) D(h) max(0, wo·h) / wo.z."""
    v = normalize((wo[0] * alpha_x, wo[1] * alpha_y, wo[2]))
    z = (f32(1.0) - u2) * (f32(1.0) + v[2]) - v[2]
    r = math.sqrt(max(f32(1.0) - z * z, f32(0.0)))
    sine, cosine = sincos_turn(u1)
    h = (r * cosine + v[0], r * sine + v[1], z + v[2])
    return normalize((h[0] * alpha_x, h[1] * alpha_y, max(h[2], f32(1e-6))))
