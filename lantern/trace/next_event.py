"""Light that is aimed at from a place: one light, what the place makes of it, and what is in its way.

Called by `trace.path` once for every place that scatters light in more than one direction.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI
from lantern.kernel.memory import load_u64, peek_f32, peek_i32, peek_vector
from lantern.kernel.points import draw
from lantern.kernel.vectors import SMALL, add, dot, max_component, mul, scale, sub, to_local
from lantern.surface.evaluate import evaluate
from lantern.surface.record import SURFACE
from lantern.trace.counting import count
from lantern.trace.embree import FAR
from lantern.trace.ground import ground_distance
from lantern.trace.hit import leave_hit, leave_surface
from lantern.trace.layers import DIFFUSE, SPECULAR, TRANSMISSION, deposit, deposit_shadow
from lantern.trace.layout import (
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM,
    MEDIUM_AT,
    PATH,
    PATH_AT,
    RAY_AT,
    RESULT_AT,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
    SHADOW_RAYS,
    SURFACE_AT,
)
from lantern.trace.lighting import aim_at_light, aimed_radiance, light_through, power_heuristic
from lantern.trace.medium import phase
from lantern.trace.segment import SCATTERED, SURFACE_MET, record_ray

C, S, H, Q = SCENE.slots, SETTINGS.slots, HIT.slots, LIGHT_SAMPLE.slots
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
def _answer_of_surface(scene, scratch, wo, wi, here, has_layers):
    """(value, density, start of the shadow ray, diffuse share, kind) of the surface in the record for light from wi."""
    hit, surface = scratch + HIT_AT, scratch + SURFACE_AT
    geometric = peek_vector(hit, H.geometric)
    side = dot(wi, geometric)
    local = to_local(wi, peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), peek_vector(hit, H.shading))
    if side * local[2] <= _ZERO:
        return _BLACK, _ZERO, here, _WHITE, DIFFUSE
    value, density = evaluate(surface, wo, local, load_u64(scene, C.films))
    if side > _ZERO:
        start = leave_surface(peek_vector(hit, H.lifted), geometric, peek_f32(hit, H.clearance))
    else:
        start = leave_hit(hit, True)
    share = diffuse_share(surface, value) if has_layers else _WHITE
    return value, density, start, share, SPECULAR if side > _ZERO else TRANSMISSION


@njit(**SMALL)
def aimed_light(
    scene, tree, scratch, event, here, n, clearance, links, arrives, wo, direction, beta, sampler, dimension, bounce
):
    """RGB that the path brings from one light aimed at from a place; leaves its LIGHT_SAMPLE.

    `wo` is the local direction back along the path at a surface, `clearance` is of level ground and of places where a
    walk came out.
    """
    settings, sample = load_u64(scene, C.settings), scratch + LIGHT_AT
    aimed = aim_at_light(
        scene,
        sample,
        here,
        n,
        event != SCATTERED,
        links,
        arrives,
        draw(sampler, dimension + _LIGHT_CHOICE),
        draw(sampler, dimension + _LIGHT_POINT),
        draw(sampler, dimension + _LIGHT_POINT + 1),
    )
    if aimed <= _ZERO:
        return _BLACK
    has_layers = load_u64(scene, C.layers) != 0
    wi = peek_vector(sample, Q.direction)
    value, density, start, share, kind = _BLACK, _ZERO, here, _WHITE, DIFFUSE
    if event == SURFACE_MET:
        value, density, start, share, kind = _answer_of_surface(scene, scratch, wo, wi, here, has_layers)
    elif event == SCATTERED:
        density = phase(peek_f32(scratch + MEDIUM_AT, D.forward), dot(direction, wi))
        value = (density, density, density)
    else:
        cosine = dot(wi, n)
        if cosine > _ZERO:
            density = cosine * INV_PI
            value = (density, density, density)
            start = leave_surface(here, n, clearance)
    weight = _ONE / aimed
    if peek_i32(sample, Q.is_point) == 0:
        weight *= power_heuristic(aimed, density)
    answered = mul(beta, scale(value, weight))
    if not max_component(answered) > _ZERO:
        return _BLACK
    far = peek_f32(sample, Q.distance)
    if far < FAR and event == SURFACE_MET:
        # The start has been lifted: the ray must still end at the point on the light.
        wi = sub(add(here, scale(wi, far)), start)
        far = math.sqrt(dot(wi, wi))
        wi = scale(wi, _ONE / far)
    through = _WHITE
    receives = event != SURFACE_MET or peek_i32(scratch + HIT_AT, H.receives_shadow) != 0
    if ground_distance(settings, start, wi) < far:
        through = _BLACK
    elif receives and peek_i32(sample, Q.casts) != 0:
        count(scratch, SHADOW_RAYS)
        record_ray(scratch, start, wi, -far, SHADOW_RAY)
        through = light_through(scene, tree, scratch + RAY_AT, scratch + MEDIUM_AT, start, wi, far)
    if not has_layers and not max_component(through) > _ZERO:
        return _BLACK
    # The map's texels come from far away in memory: by now they are here.
    brought = mul(answered, aimed_radiance(scene, sample))
    arrived = mul(brought, through)
    if has_layers:
        if bounce == 0:
            deposit_shadow(scratch + RESULT_AT, brought, arrived)
        else:
            share, kind = peek_vector(scratch + PATH_AT, P.share), peek_i32(scratch + PATH_AT, P.kind)
        deposit(scratch + RESULT_AT, arrived, peek_i32(sample, Q.group), bounce == 0, share, kind)
    return arrived
