"""Picking a direction for the next ray of a prepared surface, lobe by lobe."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import peek_f32, peek_i32, peek_vector
from lantern.kernel.vectors import EXACT, SMALL, dot, luminance, scale, sub, to_world
from lantern.surface.diffuse import sample_cosine
from lantern.surface.evaluate import glass_reflectance
from lantern.surface.fuzz import sample_uniform
from lantern.surface.ggx import sample_visible_normal
from lantern.surface.prepare import to_coat
from lantern.surface.record import HAS_COAT_FRAME, HAS_DIFFUSE, HAS_FUZZ, SURFACE
from lantern.surface.transmission import refract

S = SURFACE.slots
_ZERO = f32(0.0)
_NOWHERE = (_ZERO, _ZERO, _ZERO)

SCATTERED, ENTERED = 0, 1
"""What `sample` decided: a direction, or that the light goes into the subsurface."""
SMOOTH_ALPHA = f32(0.02)
"""Below this a lobe is so narrow that aiming at lights is a waste: only the lobe itself is sampled."""


@njit(**SMALL)
def _mirrored(wo, h):
    return sub(scale(h, f32(2.0) * dot(wo, h)), wo)


@njit(**EXACT)
def sample(s, wo, u_lobe, u1, u2, films):
    """(SCATTERED or ENTERED, local direction); the direction is zero when the microfacet points into the surface.

    The density of a direction is what `evaluate` says; ENTERED has the probability `chance_subsurface`.
    """
    u = u_lobe
    chance = peek_f32(s, S.chance_diffuse)
    if u < chance:
        return SCATTERED, sample_cosine(u1, u2)
    u -= chance
    chance = peek_f32(s, S.chance_through)
    if u < chance:
        wi = sample_cosine(u1, u2)
        return SCATTERED, (wi[0], wi[1], -wi[2])
    u -= chance
    chance = peek_f32(s, S.chance_subsurface)
    if u < chance:
        return ENTERED, _NOWHERE
    u -= chance
    chance = peek_f32(s, S.chance_fuzz)
    if u < chance:
        return SCATTERED, sample_uniform(u1, u2)
    u -= chance
    lobes = peek_i32(s, S.lobes)
    chance = peek_f32(s, S.chance_coat)
    if u < chance:
        wo_coat = to_coat(s, lobes, wo)
        wo_coat = (wo_coat[0], wo_coat[1], max(wo_coat[2], f32(1e-3)))
        h = sample_visible_normal(wo_coat, peek_f32(s, S.coat_alpha_x), peek_f32(s, S.coat_alpha_y), u1, u2)
        wi = _mirrored(wo_coat, h)
        if wi[2] <= _ZERO:
            return SCATTERED, _NOWHERE
        if lobes & HAS_COAT_FRAME:
            wi = to_world(wi, peek_vector(s, S.coat_x), peek_vector(s, S.coat_y), peek_vector(s, S.coat_z))
        return SCATTERED, wi if wi[2] > _ZERO else _NOWHERE
    u -= chance
    h = sample_visible_normal(wo, peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y), u1, u2)
    wi = _mirrored(wo, h)
    chance = peek_f32(s, S.chance_glass)
    if u < chance:
        thin = peek_i32(s, S.thin_walled) != 0
        eta = peek_f32(s, S.eta)
        if u >= chance * luminance(glass_reflectance(s, lobes, films, dot(wo, h), eta, thin)):
            if thin:
                return SCATTERED, (wi[0], wi[1], -wi[2]) if wi[2] > _ZERO else _NOWHERE
            possible, wt = refract(wo, h, eta)
            return SCATTERED, wt if possible and wt[2] < _ZERO else _NOWHERE
    return SCATTERED, wi if wi[2] > _ZERO else _NOWHERE


@njit(**SMALL)
def is_smooth(s):
    """Whether every lobe is too narrow for light sampling to help."""
    if peek_f32(s, S.chance_diffuse) + peek_f32(s, S.chance_through) > f32(0.001):
        return False
    if peek_i32(s, S.lobes) & (HAS_DIFFUSE | HAS_FUZZ):
        return False
    if max(peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y)) > SMOOTH_ALPHA:
        return False
    return not (
        peek_f32(s, S.coat) > _ZERO and max(peek_f32(s, S.coat_alpha_x), peek_f32(s, S.coat_alpha_y)) > SMOOTH_ALPHA
    )
