"""The draft: shading of the first surface, for finding an angle on a slow machine.

Reflections come from the environment blurred by roughness, one shadow ray goes to one light, and what is clear is gone
straight through. Called by `preview.looking`.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.film.counting import count
from lantern.kernel.elementary import INV_PI
from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_vector,
)
from lantern.kernel.points import draw
from lantern.kernel.vectors import (
    EXACT,
    SMALL,
    add,
    dot,
    max_component,
    mul,
    neg,
    scale,
    sub,
    to_local,
)
from lantern.light.prefilter_kernels import reflected_environment
from lantern.rays.embree import FAR
from lantern.rays.hit import leave_surface
from lantern.rays.layout import (
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM_AT,
    OTHER_SURFACE_AT,
    POINT_IN_HIT,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
    SHADOW_RAYS,
    SURFACE_AT,
)
from lantern.rays.primary import AFTER_CAMERA
from lantern.surface.albedo import REFLECTED, look_up_volume
from lantern.surface.evaluate import evaluate
from lantern.surface.fresnel import fresnel_metal
from lantern.surface.lookup import emission_at
from lantern.surface.prepare import prepare
from lantern.surface.record import SURFACE
from lantern.surface.sample import is_smooth
from lantern.transport.backdrop import backdrop_behind
from lantern.transport.ground import ground_distance, ground_ray_offset
from lantern.transport.sample_light import aimed_radiance, sample_light
from lantern.transport.shadow import light_through

C, S, H, Q, U = SCENE.slots, SETTINGS.slots, HIT.slots, LIGHT_SAMPLE.slots, SURFACE.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE, _UP = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE), (_ZERO, _ONE, _ZERO)
_LIGHT_POINT, _LIGHT_CHOICE = 0, 4


@njit(**EXACT)
def _mirror_image(scene, direction, roughness):
    """RGB [cd/m²] that a mirror shows in a direction: the blurred environment, or open ground in its light."""
    settings = load_u64(scene, C.settings)
    if load_i32(settings, S.ground) != 0 and direction[1] < _ZERO:
        light = scale(load_vector(settings, S.open_irradiance), INV_PI)
        return mul(load_vector(settings, S.ground_reflectance), light)
    return reflected_environment(
        load_u64(scene, C.environment),
        load_u64(scene, C.environment_pixels),
        load_u64(scene, C.prefiltered),
        direction,
        roughness,
    )


@njit(**SMALL)
def _reflected(scene, surface, wo, mirrored):
    """RGB [cd/m²] of the mirror images in gloss, metal and coat."""
    albedos = load_u64(scene, C.albedos)
    base, metal = peek_vector(surface, U.base_color), peek_f32(surface, U.metalness)
    roughness, cosine = peek_f32(surface, U.roughness), min(wo[2], _ONE)
    gloss = look_up_volume(albedos, REFLECTED, cosine, roughness, peek_f32(surface, U.ratio))
    reflected = scale(peek_vector(surface, U.specular_color), gloss * (_ONE - metal))
    if metal > _ZERO:
        shine = fresnel_metal(cosine, base, peek_vector(surface, U.specular_color))
        reflected = add(reflected, scale(shine, metal * peek_f32(surface, U.specular_weight)))
    under_fuzz = peek_f32(surface, U.under_fuzz)
    total = mul(reflected, scale(peek_vector(surface, U.under_coat), under_fuzz))
    total = mul(total, _mirror_image(scene, mirrored, roughness))
    coat = peek_f32(surface, U.coat)
    if coat > _ZERO:
        rough = peek_f32(surface, U.coat_roughness)
        share = coat * look_up_volume(albedos, REFLECTED, cosine, rough, peek_f32(surface, U.coat_ior))
        total = add(total, scale(_mirror_image(scene, mirrored, rough), share * under_fuzz))
    return total


@njit(**SMALL)
def _answer(surface, wo, local, films, is_map):
    """RGB that the surface makes of one light; of the map its diffuse lobes alone, since gloss shows it blurred."""
    value, _ = evaluate(surface, wo, local, films)
    if is_map or is_smooth(surface):
        value = peek_vector(surface, U.diffuse_part)
    inside = peek_f32(surface, U.subsurface)
    if inside > _ZERO and peek_i32(surface, U.thin_walled) == 0:
        under = scale(peek_vector(surface, U.under_coat), peek_f32(surface, U.under_fuzz))
        matte = scale(peek_vector(surface, U.subsurface_color), inside * INV_PI * local[2])
        value = add(value, mul(mul(matte, peek_vector(surface, U.diffuse_left)), under))
    return value


@njit(**SMALL)
def _one_light(scene, tree, scratch, sampler, wo, n):
    """RGB of one light by one shadow ray at the HIT record."""
    surface, hit, light = scratch + SURFACE_AT, scratch + HIT_AT, scratch + LIGHT_AT
    here, geometric = peek_vector(hit, H.position), peek_vector(hit, H.geometric)
    aimed = sample_light(
        scene,
        scratch,
        here,
        n,
        True,
        peek_i32(hit, H.links),
        peek_f32(hit, H.arrives),
        draw(sampler, AFTER_CAMERA + _LIGHT_CHOICE),
        draw(sampler, AFTER_CAMERA + _LIGHT_POINT),
        draw(sampler, AFTER_CAMERA + _LIGHT_POINT + 1),
    )
    wi = peek_vector(light, Q.direction)
    local = to_local(wi, peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), n)
    if aimed <= _ZERO or dot(wi, geometric) <= _ZERO or local[2] <= _ZERO:
        return _BLACK
    value = _answer(surface, wo, local, load_u64(scene, C.films), peek_i32(light, Q.from_map) != 0)
    if not max_component(value) > _ZERO:
        return _BLACK
    start = leave_surface(peek_vector(hit, H.terminator), geometric, peek_f32(hit, H.ray_offset))
    far = peek_f32(light, Q.distance)
    if far < FAR:
        wi = sub(add(here, scale(wi, far)), start)
        far = math.sqrt(dot(wi, wi))
        wi = scale(wi, _ONE / far)
    if ground_distance(load_u64(scene, C.settings), start, wi) < far:
        return _BLACK
    is_shaded = peek_i32(light, Q.casts) != 0 and peek_i32(hit, H.receives_shadow) != 0
    count(scratch, SHADOW_RAYS)
    mask, medium = SHADOW_RAY if is_shaded else 0, scratch + MEDIUM_AT
    through = light_through(scene, tree, scratch, medium, start, wi, far, mask)
    return scale(mul(mul(value, aimed_radiance(scene, light, _WHITE)), through), _ONE / aimed)


@njit(**EXACT)
def shade(scene, tree, scratch, sampler, direction, n):
    """RGB [cd/m²] of a draft at the hit: its own light, one light, and the blurred environment's reflection."""
    surface, hit = scratch + SURFACE_AT, scratch + HIT_AT
    wo = to_local(neg(direction), peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), n)
    wo = (wo[0], wo[1], max(wo[2], f32(1e-4)))
    prepare(surface, wo, load_u64(scene, C.albedos), load_u64(scene, C.films))
    mirrored = sub(scale(n, f32(2.0) * dot(n, neg(direction))), neg(direction))
    total = add(_reflected(scene, surface, wo, mirrored), _one_light(scene, tree, scratch, sampler, wo, n))
    glow = emission_at(
        load_u64(scene, C.shading),
        scratch + OTHER_SURFACE_AT,
        peek_i32(hit, H.material),
        hit + POINT_IN_HIT,
        abs(dot(direction, peek_vector(hit, H.geometric))),
        peek_i32(hit, H.entering) != 0,
    )
    return add(total, glow)


@njit(**EXACT)
def shade_ground(scene, tree, scratch, sampler, origin, direction, here):
    """RGB of a draft on the ground: the backdrop times the share of one light's irradiance that arrives."""
    settings = load_u64(scene, C.settings)
    light, medium = scratch + LIGHT_AT, scratch + MEDIUM_AT
    backdrop = backdrop_behind(scene, scratch, origin, direction)
    open_irradiance = load_vector(settings, S.open_irradiance)
    aimed = sample_light(
        scene,
        scratch,
        here,
        _UP,
        True,
        -1,
        load_f32(settings, S.ground_arrives),
        draw(sampler, AFTER_CAMERA + _LIGHT_CHOICE),
        draw(sampler, AFTER_CAMERA + _LIGHT_POINT),
        draw(sampler, AFTER_CAMERA + _LIGHT_POINT + 1),
    )
    wi = peek_vector(light, Q.direction)
    if aimed <= _ZERO or wi[1] <= _ZERO:
        return _BLACK
    count(scratch, SHADOW_RAYS)
    mask, start = SHADOW_RAY if peek_i32(light, Q.casts) != 0 else 0, leave_surface(here, _UP, ground_ray_offset(here))
    through = light_through(scene, tree, scratch, medium, start, wi, peek_f32(light, Q.distance), mask)
    arrived = mul(scale(aimed_radiance(scene, light, _WHITE), wi[1] / aimed), through)
    return (
        backdrop[0] * arrived[0] / max(open_irradiance[0], f32(1e-6)),
        backdrop[1] * arrived[1] / max(open_irradiance[1], f32(1e-6)),
        backdrop[2] * arrived[2] / max(open_irradiance[2], f32(1e-6)),
    )


@njit(**EXACT)
def clear_share(scene, surface, n, direction):
    """RGB share of light that goes straight through a clear surface in a draft."""
    clear = peek_f32(surface, U.transmission) * (_ONE - peek_f32(surface, U.metalness))
    cosine = min(max(-dot(n, direction), _ZERO), _ONE)
    lost = look_up_volume(
        load_u64(scene, C.albedos), REFLECTED, cosine, peek_f32(surface, U.roughness), peek_f32(surface, U.ratio)
    )
    return scale(peek_vector(surface, U.tint), clear * (_ONE - lost))
