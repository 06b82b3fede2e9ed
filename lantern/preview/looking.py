"""Ways of looking that follow no paths: the draft, and the data ways of `preview.ways`.

The draft is shaded by `preview.draft`. All end at the first thing a ray meets. Called by passes of views that are not
the proof's.
"""

from numba import njit
from numpy import float32 as f32

from lantern.film.counting import count
from lantern.film.tiles import fill_tiles
from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_u64,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.random import uniform
from lantern.kernel.vectors import EXACT, SMALL, add, dot, max_component, mul, scale
from lantern.light.shapes import CAMERA_SEES, LIGHT, LIGHT_WIDTH
from lantern.preview.draft import clear_share, shade, shade_ground
from lantern.preview.ways import data_color, ground_openness
from lantern.rays.embree import FAR, intersect
from lantern.rays.hit import leave_hit, resolve_hit
from lantern.rays.layout import (
    AROUND_CAMERA_AT,
    CAMERA_RAY,
    CAMERA_RAYS,
    DRAFT,
    HIT,
    HIT_AT,
    MEDIUM_AT,
    OCCLUSION,
    RAY_AT,
    RESULT,
    RESULT_AT,
    SCENE,
    SETTINGS,
    SURFACE_AT,
    WIRES,
)
from lantern.rays.lens import forward_axis
from lantern.rays.primary import primary_ray
from lantern.surface.record import SURFACE
from lantern.transport.backdrop import backdrop_behind, note_frame
from lantern.transport.boundary import fill_surface, find_volumes, opacity_of
from lantern.transport.ground import ground_distance
from lantern.transport.medium import copy_medium
from lantern.transport.meet_light import nearest_shape
from lantern.transport.sample_light import radiance_of_shape

C, S, R = SCENE.slots, SETTINGS.slots, RESULT.slots
H, L, U = HIT.slots, LIGHT.slots, SURFACE.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE, _UP = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE), (_ZERO, _ONE, _ZERO)
_OPACITY = 1 << 12
_MOST_LAYERS = 16
_EMPTY = (f32(0.035), f32(0.035), f32(0.035))
"""What data ways show where nothing is."""


@njit(**SMALL)
def _at_ground(scene, tree, scratch, sampler, way, origin, direction, here):
    """(alpha, colour) of the ground."""
    if way == DRAFT:
        return _ONE, shade_ground(scene, tree, scratch, sampler, origin, direction, here)
    if way == OCCLUSION:
        return _ONE, ground_openness(scene, tree, scratch, sampler, here)
    return _ZERO if way == WIRES else _ONE, _EMPTY


@njit(**SMALL)
def _light_seen(scene, scratch, direction, origin, far):
    """(whether the camera sees a shaped light before `far`, its RGB [cd/m²])."""
    if load_i32(load_u64(scene, C.settings), S.shaped_lights) == 0:
        return False, _BLACK
    number, distance, _ = nearest_shape(scene, scratch + RAY_AT, origin, direction, far, CAMERA_SEES)
    if number < 0:
        return False, _BLACK
    return True, radiance_of_shape(scene, number * LIGHT_WIDTH, add(origin, scale(direction, distance)), direction)


@njit(**SMALL)
def _note_first(result, normal, depth, part, material):
    """Write what the ray has met first."""
    store_vector(result, R.normal, normal)
    store_f32(result, R.depth, depth)
    store_i32(result, R.part, part)
    store_i32(result, R.material, material)


@njit(**EXACT)
def look_at(scene, tree, scratch, point, x, y, index):
    """Leave in the RESULT record what sample `index` of pixel (x, y) shows in the way of the settings."""
    settings = load_u64(scene, C.settings)
    ray, hit, surface, result = scratch + RAY_AT, scratch + HIT_AT, scratch + SURFACE_AT, scratch + RESULT_AT
    way, view = load_i32(settings, S.way), forward_axis(load_u64(scene, C.camera))
    origin, direction, sampler = primary_ray(scene, ray, point, x, y, index)
    note_frame(scene, scratch, sampler, x, y)
    copy_medium(scratch + MEDIUM_AT, scratch + AROUND_CAMERA_AT)
    _note_first(result, _BLACK, f32(-1.0), -1, -1)
    store_vector(result, R.albedo, _WHITE)
    radiance, beta, color, alpha = _BLACK, _WHITE, _EMPTY, _ONE
    travelled, is_first = _ZERO, True
    for layer in range(_MOST_LAYERS):
        count(scratch, CAMERA_RAYS)
        part, primitive, bu, bv, distance = intersect(tree, ray, origin, direction, _ZERO, FAR, CAMERA_RAY)
        to_ground = ground_distance(settings, origin, direction)
        if way == DRAFT:
            is_light, color = _light_seen(scene, scratch, direction, origin, min(distance, to_ground))
            if is_light:
                break
        if to_ground < distance:
            here = add(origin, scale(direction, to_ground))
            here = (here[0], load_f32(settings, S.ground_height), here[2])
            if is_first:
                _note_first(result, _UP, (travelled + to_ground) * dot(direction, view), -1, -1)
            alpha, color = _at_ground(scene, tree, scratch, sampler, way, origin, direction, here)
            break
        if part < 0:
            alpha, color = _ZERO, _EMPTY
            if way == DRAFT:
                color = backdrop_behind(scene, scratch, origin, direction)
            break
        resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
        travelled += distance
        if load_i32(settings, S.opacity) != 0 and uniform(sampler[5], _OPACITY + layer) >= opacity_of(scene, hit):
            origin = leave_hit(hit, True)
            continue
        n = peek_vector(hit, H.shading)
        depth = travelled * dot(direction, view)
        if is_first:
            _note_first(result, n, depth, part, peek_i32(hit, H.material))
        if way != DRAFT:
            alpha, color = data_color(scene, tree, scratch, sampler, way, (part, primitive, bu, bv), direction, depth)
            break
        # The draft: what is clear is gone straight through.
        fill_surface(scene, surface, hit, scratch + MEDIUM_AT, _ZERO, _ZERO)
        if is_first:
            store_vector(result, R.albedo, peek_vector(surface, U.base_color))
        is_first = False
        radiance = add(radiance, mul(beta, shade(scene, tree, scratch, sampler, direction, n)))
        color = _BLACK
        beta = mul(beta, clear_share(scene, surface, n, direction))
        if max_component(beta) < f32(0.01):
            break
        origin = leave_hit(hit, True)
    store_vector(result, R.radiance, add(radiance, mul(beta, color)))
    store_f32(result, R.alpha, alpha)
    return _WHITE


@njit(cache=True, **EXACT)
def look_tiles(scene, tree, scratch):
    """Fill tiles with a way of looking. `scene`, `tree`, `scratch` are addresses (uint64)."""
    find_volumes(scene, tree, scratch)
    fill_tiles(look_at, scene, tree, scratch)
