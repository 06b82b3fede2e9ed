"""Light that is aimed at from a place: one light, what the place makes of it, and what is in its way.

Called by `transport.path` once for every place that scatters light in more than one direction.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.film.aovs import DIFFUSE, SPECULAR, TRANSMISSION, deposit, deposit_shadow
from lantern.film.counting import count
from lantern.kernel.elementary import INV_PI
from lantern.kernel.memory import load_i32, load_u64, peek_f32, peek_i32, peek_vector
from lantern.kernel.points import draw
from lantern.kernel.vectors import SMALL, add, dot, max_component, mul, scale, sub, to_local
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.rays.embree import FAR
from lantern.rays.hit import leave_hit, leave_surface
from lantern.rays.layout import (
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM,
    MEDIUM_AT,
    OTHER_MEDIUM_AT,
    PATH,
    PATH_AT,
    RESULT_AT,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
    SHADOW_RAYS,
    SURFACE_AT,
)
from lantern.surface.evaluate import evaluate
from lantern.surface.record import SURFACE
from lantern.transport.boundary import cross_boundary
from lantern.transport.ground import ground_distance
from lantern.transport.medium import copy_medium, phase
from lantern.transport.sample_light import aimed_radiance, sample_light
from lantern.transport.segment import SCATTERED, SURFACE_MET, record_ray
from lantern.transport.shadow import light_through
from lantern.transport.visibility import lets_in
from lantern.transport.weights import weight_of_aimed

C, S, H, Q, M = SCENE.slots, SETTINGS.slots, HIT.slots, LIGHT_SAMPLE.slots, MATERIAL.slots
D, U, P = MEDIUM.slots, SURFACE.slots, PATH.slots
_LIGHT_POINT, _LIGHT_CHOICE = 0, 4
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)


@njit(**SMALL)
def diffuse_share(surface, value):
    """RGB share of what `evaluate` has just returned that its diffuse lobes brought."""
    part = peek_vector(surface, U.diffuse_part)
    return (
        part[0] / max(value[0], f32(1e-20)),
        part[1] / max(value[1], f32(1e-20)),
        part[2] / max(value[2], f32(1e-20)),
    )


@njit(**SMALL)
def _medium_behind(scene, scratch):
    """Address of the medium behind the boundary in the HIT record, in which light goes on that is refracted there."""
    hit = scratch + HIT_AT
    material = peek_i32(hit, H.material)
    if load_i32(load_u64(scene, C.materials), material * MATERIAL_WIDTH + M.interior) == 0:
        return scratch + MEDIUM_AT
    copy_medium(scratch + OTHER_MEDIUM_AT, scratch + MEDIUM_AT)
    cross_boundary(scene, scratch + OTHER_MEDIUM_AT, hit)
    return scratch + OTHER_MEDIUM_AT


@njit(**SMALL)
def _answer_of_surface(scene, scratch, wo, wi, here, splits):
    """(value, pdf, start of the shadow ray, diffuse share, kind) of the surface in the record for light from wi."""
    hit, surface = scratch + HIT_AT, scratch + SURFACE_AT
    geometric = peek_vector(hit, H.geometric)
    side = dot(wi, geometric)
    local = to_local(wi, peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), peek_vector(hit, H.shading))
    if side * local[2] <= _ZERO:
        return _BLACK, _ZERO, here, _WHITE, DIFFUSE
    value, pdf = evaluate(surface, wo, local, load_u64(scene, C.films))
    if side > _ZERO:
        start = leave_surface(peek_vector(hit, H.terminator), geometric, peek_f32(hit, H.ray_offset))
    else:
        start = leave_hit(hit, True)
    share = diffuse_share(surface, value) if splits else _WHITE
    return value, pdf, start, share, SPECULAR if side > _ZERO else TRANSMISSION


@njit(**SMALL)
def _answer(scene, scratch, event, wo, wi, direction, splits):
    """(value, pdf, start of the shadow ray, diffuse share, kind) of the place in the PATH record for light from wi."""
    path = scratch + PATH_AT
    here = peek_vector(path, P.point)
    if event == SURFACE_MET:
        return _answer_of_surface(scene, scratch, wo, wi, here, splits)
    if event == SCATTERED:
        pdf = phase(peek_f32(scratch + MEDIUM_AT, D.forward), dot(direction, wi))
        return (pdf, pdf, pdf), pdf, here, _WHITE, DIFFUSE
    n = peek_vector(path, P.normal)
    cosine = dot(wi, n)
    if cosine <= _ZERO:
        return _BLACK, _ZERO, here, _WHITE, DIFFUSE
    pdf = cosine * INV_PI
    return (pdf, pdf, pdf), pdf, leave_surface(here, n, peek_f32(path, P.ray_offset)), _WHITE, DIFFUSE


@njit(**SMALL)
def _through(scene, tree, scratch, medium, start, wi, far, share):
    """RGB share of aimed light that arrives; `share` of what the place makes of it is diffuse."""
    settings, sample = load_u64(scene, C.settings), scratch + LIGHT_AT
    if ground_distance(settings, start, wi) < far:
        return _BLACK
    receives = peek_i32(scratch + PATH_AT, P.receives_shadow) != 0
    casts, glossy = peek_i32(sample, Q.casts) != 0, peek_i32(sample, Q.glossy) != 0
    count(scratch, SHADOW_RAYS)
    record_ray(scratch, start, wi, -far, SHADOW_RAY)
    if load_i32(settings, S.apart) != 0:
        return lets_in(scene, tree, scratch, medium, start, wi, far, share, receives, casts, glossy)
    return light_through(scene, tree, scratch, medium, start, wi, far, SHADOW_RAY)


@njit(**SMALL)
def aimed_light(scene, tree, scratch, event, wo, direction, beta, sampler, dimension, bounce):
    """RGB that the path brings from one light aimed at from the place in the PATH record; leaves its LIGHT_SAMPLE.

    `wo` is the local direction back along the path at a surface, `direction` that in which the path came.
    """
    settings, sample, path = load_u64(scene, C.settings), scratch + LIGHT_AT, scratch + PATH_AT
    here = peek_vector(path, P.point)
    aimed = sample_light(
        scene,
        scratch,
        here,
        peek_vector(path, P.normal),
        peek_i32(path, P.on_surface) != 0,
        peek_i32(path, P.links),
        peek_f32(path, P.arrives),
        draw(sampler, dimension + _LIGHT_CHOICE),
        draw(sampler, dimension + _LIGHT_POINT),
        draw(sampler, dimension + _LIGHT_POINT + 1),
    )
    if aimed <= _ZERO:
        return _BLACK
    has_aovs = load_i32(settings, S.keeps) != 0
    wi = peek_vector(sample, Q.direction)
    splits = has_aovs or load_i32(settings, S.apart) != 0 or load_i32(settings, S.gloss_sees_other) != 0
    value, pdf, start, share, kind = _answer(scene, scratch, event, wo, wi, direction, splits)
    weight = _ONE / aimed
    if peek_i32(sample, Q.is_point) == 0:
        weight *= weight_of_aimed(settings, aimed, pdf)
    answered = mul(beta, scale(value, weight))
    if not max_component(answered) > _ZERO:
        return _BLACK
    medium = scratch + MEDIUM_AT
    if kind == TRANSMISSION:
        medium = _medium_behind(scene, scratch)
    far = peek_f32(sample, Q.distance)
    if far < FAR and event == SURFACE_MET:
        # The start has been moved: the ray must still end at the point on the light.
        wi = sub(add(here, scale(wi, far)), start)
        far = math.sqrt(dot(wi, wi))
        wi = scale(wi, _ONE / far)
    through = _through(scene, tree, scratch, medium, start, wi, far, share)
    if not has_aovs and not max_component(through) > _ZERO:
        return _BLACK
    # The map's texels come from far away in memory: by now they are here.
    brought = mul(answered, aimed_radiance(scene, sample, share))
    arrived = mul(brought, through)
    if has_aovs:
        if bounce == 0:
            deposit_shadow(scratch + RESULT_AT, brought, arrived)
        else:
            share, kind = peek_vector(path, P.share), peek_i32(path, P.kind)
        deposit(scratch + RESULT_AT, arrived, peek_i32(sample, Q.group), bounce == 0, share, kind)
    return arrived
