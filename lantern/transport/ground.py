"""The ground: a level plane that catches shadows and reflections over whatever is behind it.

Where the camera sees it, the picture is the backdrop times (light that arrives / light that would arrive on open
ground). A polished ground also reflects: a share of the samples, by Schlick's Fresnel term at a GGX microfacet, goes on
to what stands on it; where such a sample finds nothing, the backdrop stays as it is, since it already holds what an
empty floor reflects.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32
from lantern.kernel.vectors import EXACT, SMALL, dot, frame_around, neg, scale, sub, to_local, to_world
from lantern.rays.embree import FAR
from lantern.rays.layout import SETTINGS
from lantern.rays.placement import ROUNDING
from lantern.surface.ggx import SMALLEST_ALPHA, sample_visible_normal, smith_lambda

S = SETTINGS.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_LEAST_ALPHA = f32(SMALLEST_ALPHA)
_UP = (_ZERO, _ONE, _ZERO)


@njit(**SMALL)
def ground_distance(settings, origin, direction):
    """Distance to the ground seen from above, FAR if there is none that way."""
    if load_i32(settings, S.ground) == 0 or direction[1] >= _ZERO:
        return FAR
    above = origin[1] - load_f32(settings, S.ground_height)
    return above / -direction[1] if above > _ZERO else FAR


@njit(**SMALL)
def ground_ray_offset(here):
    """How far [m] a ray must start from a place on the ground not to meet it again by rounding."""
    return ROUNDING * max(abs(here[0]), max(abs(here[1]), abs(here[2])))


@njit(**EXACT)
def reflect_on_ground(settings, direction, u, u1, u2):
    """(weight, new direction) of a camera ray along `direction` that the polish reflects; weight 0 when it does not.

    `u` decides between polish and what is under it, u1 and u2 pick the microfacet.
    """
    r0 = load_f32(settings, S.ground_reflection)
    tangent, bitangent = frame_around(_UP)
    wo = to_local(neg(direction), tangent, bitangent, _UP)
    roughness = load_f32(settings, S.ground_roughness)
    alpha = max(roughness * roughness, _LEAST_ALPHA)
    h = sample_visible_normal(wo, alpha, alpha, u1, u2)
    c = dot(wo, h)
    wi = sub(scale(h, f32(2.0) * c), wo)
    m = max(_ONE - c, _ZERO)
    if u >= r0 + (_ONE - r0) * m * m * m * m * m or wi[2] <= _ZERO:
        return _ZERO, direction
    seen = _ONE + smith_lambda(wo, alpha, alpha)
    weight = seen / (seen + smith_lambda(wi, alpha, alpha))
    return weight, to_world(wi, tangent, bitangent, _UP)
