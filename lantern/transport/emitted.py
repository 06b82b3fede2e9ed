"""Light that a ray runs into: what is behind the scene, shaped lights, glowing surfaces.

Each function returns the RGB [cd/m²] that the path brings from there, weighed against the chance that the place which
the ray left had aimed at it, and adds it to the AOVs. A place that aims at nothing (the camera, a mirror) sees what its
rays run into: lights that it may not see are not there, and those it sees hide what is behind them. A place that does
aim is lit by all lights, and none is in the way of another. `visibility` says what happens where parts are seen but
cast no shadow, or the other way round.
"""

from numba import njit
from numpy import float32 as f32

from lantern.film.aovs import deposit, deposit_seen
from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_vector,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, add, dot, max_component, mul, scale
from lantern.light.environment_kernels import radiance_and_pdf
from lantern.light.shapes import CAMERA_SEES, LIGHT, LIGHT_WIDTH, REFLECTIONS_SEE
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.rays.layout import (
    ENVIRONMENT_GROUP,
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM_AT,
    NO_PICTURE,
    OTHER_SURFACE_AT,
    PATH,
    PATH_AT,
    POINT_IN_HIT,
    RAY_AT,
    RESULT,
    RESULT_AT,
    SCENE,
    SETTINGS,
)
from lantern.surface.lookup import emission_at
from lantern.transport.backdrop import backdrop_behind
from lantern.transport.medium import transmittance
from lantern.transport.meet_light import meets_disk, next_shape, pdf_of_disk, pdf_of_shape, pdf_of_triangle
from lantern.transport.sample_light import lit_by, radiance_of_shape, seen_of_map
from lantern.transport.weights import weight_of_met

C, S, H, L, M = SCENE.slots, SETTINGS.slots, HIT.slots, LIGHT.slots, MATERIAL.slots
P, Q, R = PATH.slots, LIGHT_SAMPLE.slots, RESULT.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK = (_ZERO, _ZERO, _ZERO)
_MOST_LIGHTS = 64


@njit(**SMALL)
def note(scene, scratch, brought, group, bounce, is_background):
    """Add light to the AOVs, if the film has any; returns it."""
    if load_i32(load_u64(scene, C.settings), S.keeps) != 0:
        path, result = scratch + PATH_AT, scratch + RESULT_AT
        if bounce == 0:
            deposit_seen(result, brought, group, is_background)
        else:
            deposit(result, brought, group, bounce == 1, peek_vector(path, P.share), peek_i32(path, P.kind))
    return brought


@njit(**SMALL)
def environment_at(scene, at):
    """(radiance, pdf with which the map is aimed there) at map coordinates from `segment.reach`."""
    return radiance_and_pdf(
        load_u64(scene, C.environment),
        load_u64(scene, C.environment_pixels),
        load_u64(scene, C.environment_pdfs),
        at[0],
        at[1],
    )


@njit(**SMALL)
def _disks(scene, scratch, direction, beta, bounce):
    """Light of the distant disks that a ray runs into."""
    settings, path, lights = load_u64(scene, C.settings), scratch + PATH_AT, load_u64(scene, C.lights)
    first, pdf = load_i32(settings, S.distant_first), peek_f32(path, P.pdf)
    wanted = CAMERA_SEES if bounce == 0 else REFLECTIONS_SEE
    total = _BLACK
    for i in range(load_i32(settings, S.distant_lights)):
        row = (first + i) * LIGHT_WIDTH
        seen = pdf > _ZERO or load_i32(lights, row + L.seen) & wanted != 0
        lit = lit_by(peek_i32(path, P.links), load_i32(lights, row + L.link))
        if seen and lit and meets_disk(lights, row, direction):
            aimed = pdf_of_disk(scene, settings, row, peek_f32(scratch + LIGHT_AT, Q.local_chance))
            weight = weight_of_met(settings, pdf, aimed)
            brought = mul(beta, scale(load_vector(lights, row + L.radiance), weight))
            total = add(total, note(scene, scratch, brought, load_i32(lights, row + L.group), bounce, bounce == 0))
    return total


@njit(**SMALL)
def light_behind(scene, scratch, origin, direction, beta):
    """What the camera sees behind everything: the backdrop, and with the environment itself the sun."""
    settings = load_u64(scene, C.settings)
    sky = backdrop_behind(scene, scratch, origin, direction)
    seen = note(scene, scratch, mul(beta, sky), ENVIRONMENT_GROUP, 0, True)
    is_plain = load_i32(settings, S.backdrop_lookup) == NO_PICTURE
    sees_environment = load_i32(settings, S.camera_sees_environment) != 0
    if sees_environment or not is_plain:
        store_vector(scratch + RESULT_AT, R.albedo, (min(sky[0], _ONE), min(sky[1], _ONE), min(sky[2], _ONE)))
    if sees_environment and is_plain and load_i32(settings, S.distant_lights) != 0:
        seen = add(seen, _disks(scene, scratch, direction, beta, 0))
    return seen


@njit(**SMALL)
def light_from_afar(scene, scratch, direction, beta, at, bounce):
    """Light of the environment and of distant lights for a ray that has left a place and meets nothing."""
    settings = load_u64(scene, C.settings)
    sky, sky_pdf = environment_at(scene, at)
    sky = seen_of_map(scene, at[0], at[1], sky, peek_vector(scratch + PATH_AT, P.matt))
    aimed = sky_pdf * load_f32(settings, S.environment_chance)
    aimed *= _ONE - peek_f32(scratch + LIGHT_AT, Q.local_chance)
    weight = weight_of_met(settings, peek_f32(scratch + PATH_AT, P.pdf), aimed)
    brought = note(scene, scratch, mul(beta, scale(sky, weight)), ENVIRONMENT_GROUP, bounce, False)
    if load_i32(settings, S.distant_lights) != 0:
        brought = add(brought, _disks(scene, scratch, direction, beta, bounce))
    return brought


@njit(**SMALL)
def light_of_shape(scene, scratch, number, direction, distance, facing, beta, bounce):
    """Light of a shaped light, `distance` from the place that the ray left, met at |cos θ| `facing`."""
    settings, lights, path = load_u64(scene, C.settings), load_u64(scene, C.lights), scratch + PATH_AT
    row, pdf = number * LIGHT_WIDTH, peek_f32(path, P.pdf)
    if not lit_by(peek_i32(path, P.links), load_i32(lights, row + L.link)):
        return _BLACK
    aimed = pdf_of_shape(scene, scratch, number, direction, distance, facing) if pdf > _ZERO else _ZERO
    weight = weight_of_met(settings, pdf, aimed)
    at = add(peek_vector(path, P.point), scale(direction, distance))
    brought = mul(beta, scale(radiance_of_shape(scene, row, at, direction), weight))
    return note(scene, scratch, brought, load_i32(lights, row + L.group), bounce, False)


@njit(**EXACT)
def light_of_shapes(scene, scratch, origin, direction, travelled, far, beta, bounce):
    """Light of all shaped lights before `far` on a ray from a place that aims at lights.

    `travelled` [m] is what the ray has come before its `origin`.
    """
    settings, medium, total, near = load_u64(scene, C.settings), scratch + MEDIUM_AT, _BLACK, _ZERO
    for _ in range(_MOST_LIGHTS):
        number, at, facing, near = next_shape(scene, scratch + RAY_AT, origin, direction, near, far, 0)
        if number < 0:
            break
        # What the medium takes is counted, not left to chance: light is no event of the path.
        left = mul(beta, transmittance(medium, settings, origin, direction, _ZERO, at))
        total = add(total, light_of_shape(scene, scratch, number, direction, travelled + at, facing, left, bounce))
    return total


@njit(**SMALL)
def light_of_surface(scene, scratch, direction, distance, beta, bounce):
    """Light of the surface in the HIT record, `distance` from the place that the ray left, if it glows on this side."""
    hit, path = scratch + HIT_AT, scratch + PATH_AT
    settings, materials, material = load_u64(scene, C.settings), load_u64(scene, C.materials), peek_i32(hit, H.material)
    if max_component(load_vector(materials, material * MATERIAL_WIDTH + M.emission)) <= _ZERO:
        return _BLACK
    cosine = abs(dot(direction, peek_vector(hit, H.geometric)))
    emission = emission_at(
        load_u64(scene, C.shading),
        scratch + OTHER_SURFACE_AT,
        material,
        hit + POINT_IN_HIT,
        cosine,
        peek_i32(hit, H.entering) != 0,
    )
    if max_component(emission) <= _ZERO:
        return _BLACK
    part, primitive = peek_i32(hit, H.part), peek_i32(hit, H.primitive)
    aimed, group = pdf_of_triangle(scene, scratch, part, primitive, direction, distance)
    weight = weight_of_met(settings, peek_f32(path, P.pdf), aimed)
    return note(scene, scratch, mul(beta, scale(emission, weight)), group, bounce, False)
