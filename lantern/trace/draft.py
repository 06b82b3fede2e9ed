"""The draft: shading of the first surface, for finding an angle on a slow machine.

Reflections come from the environment blurred by roughness, one shadow ray goes to one light, and what is clear is gone
straight through. Called by `trace.looking`.
"""

import math

from numba import njit
from numpy import float32 as f32

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
from lantern.light.environment_kernels import map_coordinates, radiance_at
from lantern.light.prefilter_kernels import reflected_environment
from lantern.surface.albedo import REFLECTED, look_up_volume
from lantern.surface.evaluate import evaluate
from lantern.surface.fresnel import fresnel_metal
from lantern.surface.prepare import prepare
from lantern.surface.record import SURFACE
from lantern.surface.sample import is_smooth
from lantern.trace.counting import count
from lantern.trace.embree import FAR
from lantern.trace.ground import ground_distance
from lantern.trace.hit import leave_surface
from lantern.trace.layout import (
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM_AT,
    RAY_AT,
    SCENE,
    SETTINGS,
    SHADOW_RAYS,
    SURFACE_AT,
)
from lantern.trace.lighting import aim_at_light, aimed_radiance, light_through
from lantern.trace.placement import ROUNDING
from lantern.trace.primary import AFTER_CAMERA

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


@njit(**EXACT)
def shade(scene, tree, scratch, sampler, direction, n):
    """RGB [cd/m²] of a draft at the hit: one light by one shadow ray, and the blurred environment's reflection."""
    surface, hit, light, medium = scratch + SURFACE_AT, scratch + HIT_AT, scratch + LIGHT_AT, scratch + MEDIUM_AT
    films, albedos = load_u64(scene, C.films), load_u64(scene, C.albedos)
    settings = load_u64(scene, C.settings)
    tangent, bitangent = peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent)
    here, geometric = peek_vector(hit, H.position), peek_vector(hit, H.geometric)
    wo = to_local(neg(direction), tangent, bitangent, n)
    wo = (wo[0], wo[1], max(wo[2], f32(1e-4)))
    prepare(surface, wo, albedos, films)

    # What is reflected.
    base, metal = peek_vector(surface, U.base_color), peek_f32(surface, U.metalness)
    roughness, cosine = peek_f32(surface, U.roughness), min(wo[2], _ONE)
    gloss = look_up_volume(albedos, REFLECTED, cosine, roughness, peek_f32(surface, U.ratio))
    reflected = scale(peek_vector(surface, U.specular_color), gloss * (_ONE - metal))
    if metal > _ZERO:
        shine = fresnel_metal(cosine, base, peek_vector(surface, U.specular_color))
        reflected = add(reflected, scale(shine, metal * peek_f32(surface, U.specular_weight)))
    mirrored = sub(scale(n, f32(2.0) * dot(n, neg(direction))), neg(direction))
    under = scale(peek_vector(surface, U.under_coat), peek_f32(surface, U.under_fuzz))
    total = mul(mul(reflected, under), _mirror_image(scene, mirrored, roughness))
    coat = peek_f32(surface, U.coat)
    if coat > _ZERO:
        rough = peek_f32(surface, U.coat_roughness)
        share = coat * look_up_volume(albedos, REFLECTED, cosine, rough, peek_f32(surface, U.coat_ior))
        total = add(total, scale(_mirror_image(scene, mirrored, rough), share * peek_f32(surface, U.under_fuzz)))

    # One light.
    dimension = AFTER_CAMERA
    aimed = aim_at_light(
        scene,
        light,
        here,
        n,
        True,
        peek_i32(hit, H.links),
        peek_f32(hit, H.arrives),
        draw(sampler, dimension + _LIGHT_CHOICE),
        draw(sampler, dimension + _LIGHT_POINT),
        draw(sampler, dimension + _LIGHT_POINT + 1),
    )
    wi = peek_vector(light, Q.direction)
    local = to_local(wi, tangent, bitangent, n)
    side = dot(wi, geometric)
    if aimed > _ZERO and side > _ZERO and local[2] > _ZERO:
        value, _ = evaluate(surface, wo, local, films)
        if peek_i32(light, Q.from_map) != 0 or is_smooth(surface):
            value = peek_vector(surface, U.diffuse_part)
        inside = peek_f32(surface, U.subsurface)
        if inside > _ZERO and peek_i32(surface, U.thin_walled) == 0:
            matte = scale(peek_vector(surface, U.subsurface_color), inside * INV_PI * local[2])
            value = add(value, mul(mul(matte, peek_vector(surface, U.diffuse_left)), under))
        if max_component(value) > _ZERO:
            start = leave_surface(peek_vector(hit, H.lifted), geometric, peek_f32(hit, H.clearance))
            far = peek_f32(light, Q.distance)
            if far < FAR:
                wi = sub(add(here, scale(wi, far)), start)
                far = math.sqrt(dot(wi, wi))
                wi = scale(wi, _ONE / far)
            through = _WHITE
            if ground_distance(settings, start, wi) < far:
                through = _BLACK
            elif peek_i32(light, Q.casts) != 0 and peek_i32(hit, H.receives_shadow) != 0:
                count(scratch, SHADOW_RAYS)
                through = light_through(scene, tree, scratch + RAY_AT, medium, start, wi, far)
            total = add(total, scale(mul(mul(value, aimed_radiance(scene, light)), through), _ONE / aimed))
    return total


@njit(**EXACT)
def shade_ground(scene, tree, scratch, sampler, direction, here):
    """RGB of a draft on the ground: the backdrop times the share of one light's irradiance that arrives."""
    settings = load_u64(scene, C.settings)
    light, medium = scratch + LIGHT_AT, scratch + MEDIUM_AT
    backdrop = load_vector(settings, S.backdrop)
    if load_i32(settings, S.camera_sees_environment) != 0:
        u, v = map_coordinates(load_u64(scene, C.environment), direction)
        backdrop = radiance_at(load_u64(scene, C.environment), load_u64(scene, C.environment_pixels), u, v)
    open_irradiance = load_vector(settings, S.open_irradiance)
    aimed = aim_at_light(
        scene,
        light,
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
    through = _WHITE
    if peek_i32(light, Q.casts) != 0:
        count(scratch, SHADOW_RAYS)
        clearance = ROUNDING * max(abs(here[0]), max(abs(here[1]), abs(here[2])))
        start = leave_surface(here, _UP, clearance)
        through = light_through(scene, tree, scratch + RAY_AT, medium, start, wi, peek_f32(light, Q.distance))
    arrived = mul(scale(aimed_radiance(scene, light), wi[1] / aimed), through)
    return (
        backdrop[0] * arrived[0] / max(open_irradiance[0], f32(1e-6)),
        backdrop[1] * arrived[1] / max(open_irradiance[1], f32(1e-6)),
        backdrop[2] * arrived[2] / max(open_irradiance[2], f32(1e-6)),
    )


@njit(**SMALL)
def backdrop_seen(scene, direction):
    """RGB [cd/m²] behind everything."""
    settings = load_u64(scene, C.settings)
    if load_i32(settings, S.camera_sees_environment) == 0:
        return load_vector(settings, S.backdrop)
    environment = load_u64(scene, C.environment)
    u, v = map_coordinates(environment, direction)
    return radiance_at(environment, load_u64(scene, C.environment_pixels), u, v)


@njit(**EXACT)
def clear_share(scene, surface, n, direction):
    """RGB share of light that goes straight through a clear surface in a draft."""
    clear = peek_f32(surface, U.transmission) * (_ONE - peek_f32(surface, U.metalness))
    cosine = min(max(-dot(n, direction), _ZERO), _ONE)
    lost = look_up_volume(
        load_u64(scene, C.albedos), REFLECTED, cosine, peek_f32(surface, U.roughness), peek_f32(surface, U.ratio)
    )
    return scale(peek_vector(surface, U.tint), clear * (_ONE - lost))
