"""How much of even white light a surface sends to the camera, colour by colour: its reflectance, not what is on it.

In: the surface in the HIT record. Out: one sample of its directional-hemispherical reflectance (Nicodemus et al., NBS
Monograph 160, 1977, section IV). Called by `preview.ways`. What goes through is not counted; what walks under the
surface comes out in its colour.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_u64, peek_f32, peek_vector
from lantern.kernel.points import draw
from lantern.kernel.vectors import EXACT, mul, neg, scale, to_local
from lantern.rays.layout import HIT, HIT_AT, MEDIUM_AT, SCENE, SURFACE_AT
from lantern.rays.primary import AFTER_CAMERA
from lantern.surface.evaluate import evaluate
from lantern.surface.prepare import prepare
from lantern.surface.record import SURFACE
from lantern.surface.sample import ENTERED, sample
from lantern.transport.boundary import fill_surface

C, H, U = SCENE.slots, HIT.slots, SURFACE.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK = (_ZERO, _ZERO, _ZERO)


@njit(**EXACT)
def reflected(scene, scratch, sampler, direction):
    """RGB of one direction that light comes from, over its density."""
    hit, surface, films = scratch + HIT_AT, scratch + SURFACE_AT, load_u64(scene, C.films)
    fill_surface(scene, surface, hit, scratch + MEDIUM_AT, _ZERO, _ZERO)
    tangent, bitangent = peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent)
    wo = to_local(neg(direction), tangent, bitangent, peek_vector(hit, H.shading))
    prepare(surface, wo, load_u64(scene, C.albedos), films)
    decision, wi = sample(
        surface,
        wo,
        draw(sampler, AFTER_CAMERA),
        draw(sampler, AFTER_CAMERA + 1),
        draw(sampler, AFTER_CAMERA + 2),
        films,
    )
    if decision == ENTERED:
        share = peek_f32(surface, U.subsurface) * peek_f32(surface, U.under_fuzz)
        enters = mul(peek_vector(surface, U.under_coat), peek_vector(surface, U.diffuse_left))
        weight = share / peek_f32(surface, U.chance_subsurface)
        return scale(mul(enters, peek_vector(surface, U.subsurface_color)), weight)
    if wi[2] <= _ZERO:
        return _BLACK
    value, pdf = evaluate(surface, wo, wi, films)
    return scale(value, _ONE / pdf) if pdf > _ZERO else _BLACK
