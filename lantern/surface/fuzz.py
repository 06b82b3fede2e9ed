"""The fuzz of cloth and dust: a microfacet lobe of fibres that stand up.

Estevez & Kulla, "Production Friendly Microfacet Sheen BRDF", 2017 (distribution, equation 2; masking, table 1).
OpenPBR leaves the fuzz model open; the base below is scaled by this lobe's own measured albedo.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_TWO_PI, sincos_turn
from lantern.kernel.vectors import SMALL, add, normalize

LEAST_ROUGHNESS = f32(0.07)


@njit(**SMALL)
def _lift(x, t):
    """The fitted exponent of Λ; t = (1 - roughness)² blends the two columns of the table."""
    a = f32(21.5473) + t * f32(25.3245 - 21.5473)
    b = f32(3.82987) + t * f32(3.32435 - 3.82987)
    c = f32(0.19823) + t * f32(0.16801 - 0.19823)
    d = f32(-1.97760) + t * f32(-1.27393 + 1.97760)
    e = f32(-4.32054) + t * f32(-4.85967 + 4.32054)
    return a / (f32(1.0) + b * math.pow(x, c)) + d * x + e


@njit(**SMALL)
def _lambda(cosine, t):
    if cosine < f32(0.5):
        return math.exp(_lift(cosine, t))
    return math.exp(f32(2.0) * _lift(f32(0.5), t) - _lift(f32(1.0) - cosine, t))


@njit(**SMALL)
def fuzz_value(roughness, wo, wi):
    """f·cos θi [1/sr] of white fuzz."""
    r = max(roughness, LEAST_ROUGHNESS)
    h = normalize(add(wo, wi))
    sine = math.sqrt(max(h[0] * h[0] + h[1] * h[1], f32(1e-12)))
    inverse = f32(1.0) / r
    density = (f32(2.0) + inverse) * math.pow(sine, inverse) * INV_TWO_PI
    t = (f32(1.0) - r) * (f32(1.0) - r)
    masking = f32(1.0) / (f32(1.0) + _lambda(wo[2], t) + _lambda(wi[2], t))
    return density * masking * f32(0.25) / wo[2]


@njit(**SMALL)
def sample_uniform(u1, u2):
    """A direction uniform over the upper hemisphere, density 1 / 2π: the lobe is widest where it is strongest."""
    r = math.sqrt(max(f32(1.0) - u1 * u1, f32(0.0)))
    sine, cosine = sincos_turn(u2)
    return r * cosine, r * sine, u1
