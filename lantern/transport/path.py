"""The path kernel: unidirectional path tracing through surfaces and volumes, with light sampling and AOVs.

Kajiya, "The Rendering Equation", 1986; Veach, "Robust Monte Carlo Methods", 1997, ch. 9 (power heuristic) and
section 10.4.1 (Russian roulette). Called by `transport.passes` for each sample of each pixel. A path is a chain of
segments (`segment`); each ends in light (`emitted`) or at a place, where light is aimed at (`next_event`) and the path
goes on (`scatter`). What seldom changes is kept in the PATH record, the rest in variables.
"""

from numba import njit
from numpy import float32 as f32

from lantern.film.aovs import DIFFUSE, SPECULAR, clear_sums
from lantern.kernel.elementary import PI
from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.points import draw
from lantern.kernel.random import uniform
from lantern.kernel.spectrum import LONGEST, SHORTEST, wavelength_weight
from lantern.kernel.vectors import (
    EXACT,
    SMALL,
    add,
    dot,
    luminance,
    max_component,
    mul,
    neg,
    scale,
    to_local,
)
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.rays.hit import leave_hit, leave_surface, resolve_hit
from lantern.rays.layout import (
    AROUND_CAMERA_AT,
    ENVIRONMENT_GROUP,
    HIT,
    HIT_AT,
    MEDIUM_AT,
    PATH,
    PATH_AT,
    RAY_AT,
    RESULT,
    RESULT_AT,
    SCATTERING_ALONE,
    SCENE,
    SETTINGS,
    SURFACE_AT,
)
from lantern.rays.lens import forward_axis
from lantern.rays.primary import AFTER_CAMERA, WAVELENGTH, primary_ray
from lantern.surface.prepare import prepare
from lantern.surface.record import SURFACE
from lantern.surface.sample import is_smooth
from lantern.transport.backdrop import backdrop_behind, note_frame, reflectance_of_ground
from lantern.transport.boundary import fill_surface, passes
from lantern.transport.emitted import (
    light_behind,
    light_from_afar,
    light_of_shape,
    light_of_shapes,
    light_of_surface,
    note,
)
from lantern.transport.first_seen import feature_albedo, guide, see
from lantern.transport.ground import ground_ray_offset, reflect_on_ground
from lantern.transport.medium import copy_medium
from lantern.transport.next_event import aimed_light
from lantern.transport.scatter import (
    ENDED,
    GOES_ON,
    WALKED,
    note_first,
    scatter_at_surface,
    scatter_from_wall,
    scatter_in_medium,
    stand_at,
)
from lantern.transport.segment import (
    CAME_OUT,
    GROUND,
    LIGHT_MET,
    SCATTERED,
    SKY,
    SURFACE_MET,
    cross_volume,
    reach,
)
from lantern.transport.visibility import light_along

C, S, R, P = SCENE.slots, SETTINGS.slots, RESULT.slots, PATH.slots
H, M, U = HIT.slots, MATERIAL.slots, SURFACE.slots

# Dimensions of the sample points after those of the camera: every bounce has 12. The first ten are those of
# `next_event`, `scatter` and `segment`.
_ROULETTE, _A_BOUNCE = 6, 12
_OPACITY, _POLISH = 1 << 12, 1 << 13  # hashed

_ROULETTE_FROM, _CUT_FROM = 3, 12
"""Bounces from which a path may end by its weight, and from which even a bright one may."""
_LEAST_IRRADIANCE = f32(1e-6)
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)
_UP = (_ZERO, _ONE, _ZERO)
_SHORTEST, _RANGE = f32(SHORTEST), f32(LONGEST - SHORTEST)
_EVERY_LINK = -1


@njit(**SMALL)
def _clear_result(scene, result):
    """Nothing has been seen yet."""
    store_f32(result, R.alpha, _ONE)
    store_vector(result, R.albedo, _WHITE)
    store_vector(result, R.normal, _BLACK)
    store_f32(result, R.depth, f32(-1.0))
    store_i32(result, R.part, -1)
    store_i32(result, R.material, -1)
    settings = load_u64(scene, C.settings)
    if load_i32(settings, S.keeps) != 0:
        clear_sums(result, load_i32(settings, S.groups))


@njit(**SMALL)
def _polish(settings, direction, key):
    """(weight, direction) of a camera ray that polished ground reflects; weight 0 when it goes into the ground."""
    if load_f32(settings, S.ground_reflection) <= _ZERO:
        return _ZERO, direction
    return reflect_on_ground(
        settings, direction, uniform(key, _POLISH), uniform(key, _POLISH + 1), uniform(key, _POLISH + 2)
    )


@njit(**SMALL)
def _survives(beta, whole, bounce, sampler, dimension):
    """Beta of a path that goes on after Russian roulette, black when it ends; `whole` is one that has lost nothing."""
    survival = min(max_component(beta) / whole, _ONE if bounce < _CUT_FROM else f32(0.95))
    if draw(sampler, dimension + _ROULETTE) >= survival:
        return _BLACK
    return scale(beta, _ONE / survival)


@njit(**SMALL)
def _begin(scene, scratch, point, x, y, index):
    """(origin, direction, sampler) of the camera ray of a sample; clears what the last path has left."""
    path, result = scratch + PATH_AT, scratch + RESULT_AT
    origin, direction, sampler = primary_ray(scene, scratch + RAY_AT, point, x, y, index)
    copy_medium(scratch + MEDIUM_AT, scratch + AROUND_CAMERA_AT)
    _clear_result(scene, result)
    stand_at(scratch, origin, _UP, False, _EVERY_LINK, _ONE, _ZERO, 1)
    store_f32(path, P.pdf, _ZERO)
    note_first(scratch, _WHITE, DIFFUSE)
    store_f32(path, P.wavelength, _ZERO)
    store_f32(path, P.least_alpha, _ZERO)
    store_f32(path, P.whole, _ONE)
    store_vector(path, P.backdrop, _WHITE)
    store_i32(path, P.catches, 0)
    store_i32(path, P.mirrors, 0)
    store_i32(path, P.guides, 1)
    note_frame(scene, scratch, sampler, x, y)
    return origin, direction, sampler


@njit(**SMALL)
def _is_measured(scene, bounce):
    """Whether a perfect matt white stands in the place of what a segment ends at, to tell the light that arrives."""
    return bounce == 0 and load_i32(load_u64(scene, C.settings), S.white) >= 0


@njit(**SMALL)
def _meet_sky(scene, scratch, direction, beta, at, bounce, is_counted):
    """Light of a ray that meets nothing."""
    path, result = scratch + PATH_AT, scratch + RESULT_AT
    if bounce == 0:
        store_f32(result, R.alpha, _ZERO)
        if _is_measured(scene, bounce):
            return _BLACK
        return light_behind(scene, scratch, peek_vector(path, P.point), direction, beta)
    if bounce == 1 and peek_i32(path, P.mirrors) != 0:
        # The backdrop holds already what an empty floor reflects.
        store_f32(result, R.alpha, _ZERO)
        return note(scene, scratch, peek_vector(path, P.backdrop), ENVIRONMENT_GROUP, 0, True)
    if is_counted:
        return _BLACK
    light = light_from_afar(scene, scratch, direction, beta, at, bounce)
    guide(scratch, _WHITE, light, _BLACK)
    return light


@njit(**SMALL)
def _disperse(materials, path, material, beta, sampler):
    """Beta of a path that meets its first dispersing boundary: from there on it has one wavelength."""
    if peek_f32(path, P.wavelength) != _ZERO or load_f32(materials, material * MATERIAL_WIDTH + M.cauchy_b) == _ZERO:
        return beta
    t = draw(sampler, WAVELENGTH)
    store_f32(path, P.wavelength, _SHORTEST + _RANGE * t)
    return mul(beta, wavelength_weight(t))


@njit(**SMALL)
def _meet_surface(scene, scratch, direction, far, beta, sampler, bounce, is_counted):
    """(light that it sends back, beta) of the surface in the HIT record, `far` from the place that the ray left."""
    hit, path, surface, result = scratch + HIT_AT, scratch + PATH_AT, scratch + SURFACE_AT, scratch + RESULT_AT
    if _is_measured(scene, bounce):
        store_i32(hit, H.material, load_i32(load_u64(scene, C.settings), S.white))
    material = peek_i32(hit, H.material)
    beta = _disperse(load_u64(scene, C.materials), path, material, beta, sampler)
    wavelength, least_alpha = peek_f32(path, P.wavelength), peek_f32(path, P.least_alpha)
    fill_surface(scene, surface, hit, scratch + MEDIUM_AT, wavelength, least_alpha)
    if bounce == 0:
        see(scene, result, peek_vector(hit, H.position), far, direction)
        store_i32(result, R.part, peek_i32(hit, H.part))
        store_i32(result, R.material, material)
    guide(scratch, beta, feature_albedo(surface), peek_vector(hit, H.shading))
    glow = _BLACK if is_counted else light_of_surface(scene, scratch, direction, far, beta, bounce)
    return glow, beta


@njit(**SMALL)
def _stand_at_surface(scene, scratch, direction):
    """(direction back along the path in the local frame, whether light is to be aimed at) at the HIT record."""
    hit, surface = scratch + HIT_AT, scratch + SURFACE_AT
    n = peek_vector(hit, H.shading)
    wo = to_local(neg(direction), peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), n)
    wo = (wo[0], wo[1], max(wo[2], f32(1e-4)))
    prepare(surface, wo, load_u64(scene, C.albedos), load_u64(scene, C.films))
    links, receives = peek_i32(hit, H.links), peek_i32(hit, H.receives_shadow)
    stand_at(scratch, peek_vector(hit, H.position), n, True, links, peek_f32(hit, H.arrives), _ZERO, receives)
    return wo, not is_smooth(surface)


@njit(**SMALL)
def _catch(scene, scratch, origin, direction, key):
    """(what the ground makes of light, direction of a reflection in its polish, whether there is one) for the camera.

    The picture there is the backdrop times (light that arrives / light that would arrive); on dark ground, whose share
    has no meaning, the ground shows itself.
    """
    settings, path, result = load_u64(scene, C.settings), scratch + PATH_AT, scratch + RESULT_AT
    if _is_measured(scene, 0):
        return _WHITE, direction, False
    reflectance = load_vector(settings, S.ground_reflectance)
    light = load_vector(settings, S.open_irradiance)
    if min(light[0], min(light[1], light[2])) <= _LEAST_IRRADIANCE:
        store_vector(result, R.albedo, reflectance)
        return reflectance, direction, False
    store_vector(path, P.backdrop, backdrop_behind(scene, scratch, origin, direction))
    share, mirrored = _polish(settings, direction, key)
    if share > _ZERO:
        note_first(scratch, _BLACK, SPECULAR)
        store_i32(path, P.mirrors, 1)
        return (share, share, share), mirrored, True
    whole = (PI / light[0], PI / light[1], PI / light[2])
    store_i32(path, P.catches, 1)
    store_f32(path, P.whole, max_component(whole))
    return whole, direction, False


@njit(**SMALL)
def _stand_on_ground(scene, scratch, here):
    settings = load_u64(scene, C.settings)
    arrives = load_f32(settings, S.ground_arrives)
    stand_at(scratch, here, _UP, True, _EVERY_LINK, arrives, ground_ray_offset(here), 1)


@njit(**SMALL)
def _scatter(scene, tree, scratch, event, wo, aims, direction, beta, sampler, dimension, bounce):
    """(what became of the path, beta, direction, origin) at the place in the PATH record."""
    path, is_wide, outcome = scratch + PATH_AT, True, GOES_ON
    if event == SURFACE_MET:
        outcome, beta, direction, origin, is_wide = scatter_at_surface(
            scene, tree, scratch, wo, aims, direction, beta, sampler, dimension, bounce
        )
    else:
        if event == SCATTERED:
            direction, origin = scatter_in_medium(scratch, direction, sampler, dimension), peek_vector(path, P.point)
        else:
            direction, origin = scatter_from_wall(scratch, sampler, dimension)
        if load_i32(load_u64(scene, C.settings), S.keeps) != 0 and bounce == 0:
            note_first(scratch, _WHITE, DIFFUSE)
    filtered = load_f32(load_u64(scene, C.settings), S.caustic_alpha)
    if filtered > _ZERO and is_wide:
        store_f32(path, P.least_alpha, filtered)
    return outcome, beta, direction, origin


@njit(**SMALL)
def _finish(scratch, radiance):
    """Leave the radiance in the RESULT record; returns the RGB that it was multiplied by at the end, for the AOVs."""
    path, result = scratch + PATH_AT, scratch + RESULT_AT
    if peek_i32(path, P.catches) == 0:
        store_vector(result, R.radiance, radiance)
        return _WHITE
    backdrop = peek_vector(path, P.backdrop)
    store_f32(result, R.alpha, _ONE - luminance(radiance))
    store_vector(result, R.radiance, mul(radiance, backdrop))
    return backdrop


@njit(**EXACT)
def trace_path(scene, tree, scratch, point, x, y, index):
    """Follow path number `index` of pixel (x, y) and leave what it brings in the RESULT record.

    Addresses of the scene block, the ray library's tree, the thread's scratch memory and the sample's point. Returns
    the RGB that the light was multiplied by at the end, for the AOVs.
    """
    settings = load_u64(scene, C.settings)
    ray, hit, medium, path = scratch + RAY_AT, scratch + HIT_AT, scratch + MEDIUM_AT, scratch + PATH_AT
    is_apart, aims_at_all = load_i32(settings, S.apart) != 0, load_i32(settings, S.estimator) != SCATTERING_ALONE
    origin, direction, sampler = _begin(scene, scratch, point, x, y, index)
    radiance, beta, wo = _BLACK, _WHITE, _UP
    start, travelled = origin, _ZERO  # where the segment begins; what the ray has come behind holes before
    came_out, is_counted = False, False  # of a walk under a surface; all light along the ray is in the radiance already
    bounce = 0
    for segment in range(load_i32(settings, S.depth)):
        dimension = AFTER_CAMERA + bounce * _A_BOUNCE
        event, distance, met, at = CAME_OUT, _ZERO, (-1, 0, _ZERO, _ZERO), (_ZERO, _ZERO)
        if not came_out:
            aimed = peek_f32(path, P.pdf) > _ZERO
            measures = _is_measured(scene, bounce)
            sees = not (aimed or measures)
            event, distance, met, at = reach(scene, tree, scratch, origin, direction, bounce, sees)
            if aimed and not is_counted and load_i32(settings, S.shaped_lights) != 0:
                shapes = light_of_shapes(scene, scratch, origin, direction, travelled, distance, beta, bounce)
                radiance = add(radiance, shapes)
            if not measures:
                event, distance, beta = cross_volume(
                    settings, medium, event, distance, origin, direction, start, beta, sampler, dimension, segment,
                    travelled == _ZERO,
                )  # fmt: skip
        came_out = False
        far = travelled + distance
        if event == SKY:
            radiance = add(radiance, _meet_sky(scene, scratch, direction, beta, at, bounce, is_counted))
            break
        if event == LIGHT_MET:
            radiance = add(radiance, light_of_shape(scene, scratch, met[0], direction, far, met[2], beta, bounce))
            guide(scratch, beta, _WHITE, _BLACK)
            if bounce == 0:
                store_f32(scratch + RESULT_AT, R.depth, far * dot(direction, forward_axis(load_u64(scene, C.camera))))
            break

        here, aims = add(origin, scale(direction, distance)), True
        if event == SURFACE_MET:
            resolve_hit(scene, hit, ray, met[0], met[1], met[2], met[3], direction)
            if passes(scene, medium, hit, uniform(sampler[5], _OPACITY + segment)):
                origin, start, travelled = leave_hit(hit, True), peek_vector(hit, H.position), far
                continue
            glow, beta = _meet_surface(scene, scratch, direction, far, beta, sampler, bounce, is_counted)
            radiance = add(radiance, glow)
            wo, aims = _stand_at_surface(scene, scratch, direction)
        elif event == GROUND:
            here = (here[0], load_f32(settings, S.ground_height), here[2])
            _stand_on_ground(scene, scratch, here)
            reflectance = reflectance_of_ground(scene, here)
            if bounce == 0:
                see(scene, scratch + RESULT_AT, here, far, direction)
                store_vector(scratch + RESULT_AT, R.normal, _UP)
                reflectance, direction, is_mirrored = _catch(scene, scratch, origin, direction, sampler[5])
                if is_mirrored:
                    store_i32(path, P.guides, 0)
                    beta, origin = mul(beta, reflectance), leave_surface(here, _UP, ground_ray_offset(here))
                    start, travelled, bounce = here, _ZERO, 1
                    continue
            else:
                guide(scratch, beta, reflectance, _UP)
            beta = mul(beta, reflectance)
        elif event == SCATTERED:
            if bounce == 0:
                see(scene, scratch + RESULT_AT, here, far, direction)
            stand_at(scratch, here, _UP, False, _EVERY_LINK, _ONE, _ZERO, 1)

        if aims:
            store_i32(path, P.guides, 0)
        if aims and aims_at_all:
            light = aimed_light(scene, tree, scratch, event, wo, direction, beta, sampler, dimension, bounce)
            radiance = add(radiance, light)
        outcome, beta, direction, origin = _scatter(
            scene, tree, scratch, event, wo, aims, direction, beta, sampler, dimension, bounce
        )
        if outcome == ENDED:
            break
        start, travelled, came_out = peek_vector(path, P.point), _ZERO, outcome == WALKED
        bounce += 1
        if bounce > _ROULETTE_FROM and max_component(beta) > _ZERO:
            beta = _survives(beta, peek_f32(path, P.whole), bounce, sampler, dimension)
        if not max_component(beta) > _ZERO:
            break
        is_counted = is_apart and not came_out and peek_f32(path, P.pdf) > _ZERO
        if is_counted:
            radiance = add(radiance, light_along(scene, tree, scratch, origin, direction, beta, bounce))
    return _finish(scratch, radiance)
