"""What lies between a place and a light: parts, holes in them, hidden boundaries, and the medium on the way."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_i32, load_u64, peek_i32
from lantern.kernel.vectors import EXACT, dot, max_component, mul, scale, sub
from lantern.rays.embree import FAR, intersect, is_occluded
from lantern.rays.hit import leave_hit, resolve_hit
from lantern.rays.layout import HIT, MEDIUM, OTHER_HIT_AT, OTHER_MEDIUM_AT, RAY_AT, SCENE, SETTINGS
from lantern.transport.boundary import cross_boundary, is_hidden, opacity_of
from lantern.transport.medium import copy_medium, transmittance

C, S, H, D = SCENE.slots, SETTINGS.slots, HIT.slots, MEDIUM.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)
_SHORT = f32(0.9998)
"""A shadow ray ends this share of the way: the light's own surface must not shade it."""
_MOST_LAYERS = 64


@njit(**EXACT)
def _walk_through(scene, tree, scratch, medium, origin, direction, distance, mask):
    """`light_through` where parts have holes or volumes hide boundaries: from surface to surface, as a path would."""
    settings = load_u64(scene, C.settings)
    ray, hit, inside = scratch + RAY_AT, scratch + OTHER_HIT_AT, scratch + OTHER_MEDIUM_AT
    if medium != inside:
        copy_medium(inside, medium)
    start, gone, begin, share = origin, _ZERO, _ZERO, _WHITE
    for _ in range(_MOST_LAYERS):
        far = distance * _SHORT - gone if distance < FAR else FAR
        part, primitive, bu, bv, at = intersect(tree, ray, start, direction, _ZERO, far, mask)
        if part < 0:
            return mul(share, transmittance(inside, settings, origin, direction, begin, distance))
        resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
        hidden = is_hidden(scene, inside, hit)
        if not hidden:
            share = scale(share, _ONE - opacity_of(scene, hit))
            if not max_component(share) > _ZERO:
                return _BLACK
        if hidden or peek_i32(hit, H.entering) == 0:
            share = mul(share, transmittance(inside, settings, origin, direction, begin, gone + at))
            begin = gone + at
            cross_boundary(scene, inside, hit)
        start = leave_hit(hit, True)
        gone = dot(sub(start, origin), direction)
    return _BLACK


@njit(**EXACT)
def light_through(scene, tree, scratch, medium, origin, direction, distance, mask):
    """RGB share [0, 1] of light that comes along a shadow ray: parts that `mask` sees, holes in them, the medium.

    `medium` is the record of what the ray begins in; OTHER_MEDIUM and OTHER_HIT are worked in.
    """
    settings = load_u64(scene, C.settings)
    hides = load_i32(settings, S.hides) != 0 and peek_i32(medium, D.count) > 0
    if mask != 0 and (load_i32(settings, S.opacity) != 0 or hides):
        return _walk_through(scene, tree, scratch, medium, origin, direction, distance, mask)
    far = distance * _SHORT if distance < FAR else FAR
    if mask != 0 and is_occluded(tree, scratch + RAY_AT, origin, direction, far, mask):
        return _BLACK
    return transmittance(medium, settings, origin, direction, _ZERO, distance)
