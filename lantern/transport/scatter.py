"""Where a path goes on: from a surface, from within a medium, from a matt place.

Called by `transport.path` after light has been aimed at.
"""

from numba import njit
from numpy import float32 as f32

from lantern.film.aovs import DIFFUSE, SPECULAR, TRANSMISSION
from lantern.kernel.elementary import INV_PI
from lantern.kernel.memory import (
    load_i32,
    load_u64,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.points import draw
from lantern.kernel.vectors import SMALL, dot, frame_around, max_component, mul, neg, normalize, scale, to_world
from lantern.rays.hit import leave_hit, leave_surface
from lantern.rays.layout import HIT, HIT_AT, MEDIUM, MEDIUM_AT, PATH, PATH_AT, RAY_AT, SCENE, SETTINGS, SURFACE_AT
from lantern.surface.diffuse import sample_cosine
from lantern.surface.evaluate import evaluate
from lantern.surface.record import SURFACE
from lantern.surface.sample import ENTERED, sample
from lantern.transport.boundary import cross_boundary
from lantern.transport.medium import sample_phase
from lantern.transport.next_event import diffuse_share
from lantern.transport.subsurface import walk_under

C, S, H, D, U, P = SCENE.slots, SETTINGS.slots, HIT.slots, MEDIUM.slots, SURFACE.slots, PATH.slots
ENDED, GOES_ON, WALKED = range(3)
"""What became of a path at a surface; WALKED came out of a walk under it, at the place now in the HIT record."""
_LOBE_POINT, _LOBE_CHOICE, _PHASE_POINT = 2, 5, 10
_WALK = 1 << 16  # hashed
_WIDE = f32(0.1)
"""Alpha from which a bounce counts as wide: caustics behind it may be filtered."""
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)


@njit(**SMALL)
def stand_at(scratch, point, normal, on_surface, links, arrives, ray_offset, receives_shadow):
    """Write the place that light is aimed at from, and that the next ray leaves, into the PATH record.

    The pdf of that ray is still to be said. `ray_offset` [m] is of matt places; of what light is mostly kept away from
    `arrives` tells.
    """
    path = scratch + PATH_AT
    store_vector(path, P.point, point)
    store_vector(path, P.normal, normal)
    store_i32(path, P.on_surface, 1 if on_surface else 0)
    store_i32(path, P.links, links)
    store_f32(path, P.arrives, arrives)
    store_f32(path, P.ray_offset, ray_offset)
    store_i32(path, P.receives_shadow, receives_shadow)


@njit(**SMALL)
def note_first(scratch, share, kind):
    """Remember for the AOVs what the first scattering made of the light."""
    store_vector(scratch + PATH_AT, P.share, share)
    store_i32(scratch + PATH_AT, P.kind, kind)


@njit(**SMALL)
def _walk(scene, tree, scratch, key, bounce, beta):
    """Beta after a walk under the surface; black when it never came out."""
    surface, hit = scratch + SURFACE_AT, scratch + HIT_AT
    weight = peek_f32(surface, U.subsurface) * peek_f32(surface, U.under_fuzz)
    weight /= peek_f32(surface, U.chance_subsurface)
    enters = mul(peek_vector(surface, U.under_coat), peek_vector(surface, U.diffuse_left))
    beta = mul(beta, scale(enters, weight))
    color = peek_vector(surface, U.subsurface_color)
    beta = mul(beta, walk_under(scene, tree, scratch + RAY_AT, hit, color, key, _WALK * (bounce + 1)))
    # It comes out like from a matt wall: aimed and scattered there, in the next turn of the path.
    n, links, receives = neg(peek_vector(hit, H.geometric)), peek_i32(hit, H.links), peek_i32(hit, H.receives_shadow)
    arrives, offset = peek_f32(hit, H.arrives), peek_f32(hit, H.ray_offset)
    stand_at(scratch, peek_vector(hit, H.position), n, True, links, arrives, offset, receives)
    return beta


@njit(**SMALL)
def scatter_at_surface(scene, tree, scratch, wo, aims_at_light, direction, beta, sampler, dimension, bounce):
    """(what became of it, beta, direction, origin, whether it is wide) at the surface in the record, for wo local."""
    hit, surface, path = scratch + HIT_AT, scratch + SURFACE_AT, scratch + PATH_AT
    films = load_u64(scene, C.films)
    notes = load_i32(load_u64(scene, C.settings), S.keeps) != 0 and bounce == 0
    decision, wi = sample(
        surface,
        wo,
        draw(sampler, dimension + _LOBE_CHOICE),
        draw(sampler, dimension + _LOBE_POINT),
        draw(sampler, dimension + _LOBE_POINT + 1),
        films,
    )
    if decision == ENTERED:
        beta = _walk(scene, tree, scratch, sampler[5], bounce, beta)
        if notes:
            note_first(scratch, _WHITE, DIFFUSE)
        return WALKED if max_component(beta) > _ZERO else ENDED, beta, direction, peek_vector(hit, H.position), False
    if wi[2] == _ZERO:
        return ENDED, beta, direction, _BLACK, False
    value, pdf = evaluate(surface, wo, wi, films)
    if pdf <= _ZERO:
        return ENDED, beta, direction, _BLACK, False
    tangent, bitangent = peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent)
    direction = normalize(to_world(wi, tangent, bitangent, peek_vector(hit, H.shading)))
    side = dot(direction, peek_vector(hit, H.geometric))
    if side * wi[2] <= _ZERO:
        return ENDED, beta, direction, _BLACK, False
    store_f32(path, P.pdf, pdf if aims_at_light else _ZERO)
    settings = load_u64(scene, C.settings)
    if load_i32(settings, S.apart) != 0 or load_i32(settings, S.gloss_sees_other) != 0:
        store_vector(path, P.matt, diffuse_share(surface, value))
    if notes:
        note_first(scratch, diffuse_share(surface, value), SPECULAR if side > _ZERO else TRANSMISSION)
    if side > _ZERO:
        offset = peek_f32(hit, H.ray_offset)
        origin = leave_surface(peek_vector(hit, H.terminator), peek_vector(hit, H.geometric), offset)
    else:
        origin = leave_hit(hit, True)
        cross_boundary(scene, scratch + MEDIUM_AT, hit)
    is_wide = peek_f32(surface, U.alpha_x) > _WIDE or max_component(peek_vector(surface, U.diffuse_part)) > _ZERO
    return GOES_ON, mul(beta, scale(value, _ONE / pdf)), direction, origin, is_wide


@njit(**SMALL)
def scatter_in_medium(scratch, direction, sampler, dimension):
    """New direction in the medium of the record."""
    direction, pdf = sample_phase(
        direction,
        peek_f32(scratch + MEDIUM_AT, D.forward),
        draw(sampler, dimension + _PHASE_POINT),
        draw(sampler, dimension + _PHASE_POINT + 1),
    )
    store_f32(scratch + PATH_AT, P.pdf, pdf)
    store_vector(scratch + PATH_AT, P.matt, _WHITE)
    return direction


@njit(**SMALL)
def scatter_from_wall(scratch, sampler, dimension):
    """(direction, origin) of a ray that leaves the matt place in the PATH record."""
    path = scratch + PATH_AT
    here, n = peek_vector(path, P.point), peek_vector(path, P.normal)
    wi = sample_cosine(draw(sampler, dimension + _LOBE_POINT), draw(sampler, dimension + _LOBE_POINT + 1))
    store_f32(path, P.pdf, wi[2] * INV_PI)
    store_vector(path, P.matt, _WHITE)
    tangent, bitangent = frame_around(n)
    return to_world(wi, tangent, bitangent, n), leave_surface(here, n, peek_f32(path, P.ray_offset))
