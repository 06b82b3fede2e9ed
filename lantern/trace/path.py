"""The path kernel: unidirectional path tracing through surfaces and volumes, with light sampling and feature layers.

Kajiya, "The Rendering Equation", 1986; Veach, "Robust Monte Carlo Methods", 1997, ch. 9 (power heuristic) and
section 10.4.1 (Russian roulette). Called by `trace.tiles` for each sample of each pixel. A path is a chain of segments
(`segment`); each ends in light (`emitted`) or at a place, where light is aimed at (`next_event`) and the path goes on
(`scatter`).
"""

from numba import njit
from numpy import float32 as f32

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
    lerp,
    luminance,
    max_component,
    mul,
    neg,
    scale,
    to_local,
)
from lantern.surface.lookup import MATERIAL_WIDTH
from lantern.surface.material import MATERIAL
from lantern.surface.prepare import prepare
from lantern.surface.record import SURFACE
from lantern.surface.sample import is_smooth
from lantern.trace.boundary import cross_boundary, fill_surface, is_hidden, sees_hole
from lantern.trace.emitted import environment_at, light_behind, light_from_afar, light_of_shape, light_of_surface, note
from lantern.trace.ground import reflect_on_ground
from lantern.trace.hit import leave_hit, leave_surface, resolve_hit
from lantern.trace.layers import DIFFUSE, POSITION, SPECULAR, clear_sums
from lantern.trace.layout import (
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
    SCENE,
    SETTINGS,
    SURFACE_AT,
)
from lantern.trace.lens import forward_axis
from lantern.trace.medium import copy_media
from lantern.trace.next_event import aimed_light
from lantern.trace.placement import ROUNDING
from lantern.trace.primary import AFTER_CAMERA, WAVELENGTH, primary_ray
from lantern.trace.scatter import (
    ENDED,
    WALKED,
    leave_place,
    note_first,
    scatter_at_surface,
    scatter_from_wall,
    scatter_in_medium,
)
from lantern.trace.segment import CAME_OUT, GROUND, LIGHT_MET, SCATTERED, SKY, SURFACE_MET, reach

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
    if load_u64(scene, C.layers) != 0:
        clear_sums(result)


@njit(**SMALL)
def _see(scene, result, here, normal, distance, direction):
    """Write where the camera ray has met something."""
    store_f32(result, R.depth, distance * dot(direction, forward_axis(load_u64(scene, C.camera))))
    store_vector(result, R.normal, normal)
    if load_u64(scene, C.layers) != 0:
        store_vector(result, R.sums + POSITION, here)


@njit(**SMALL)
def _feature_albedo(s):
    """Colour of the surface as the denoiser wants it: glass counts as white, as it shows what is behind."""
    clear = peek_f32(s, U.transmission) * (_ONE - peek_f32(s, U.metalness))
    base = peek_vector(s, U.base_color)
    share = peek_f32(s, U.subsurface)
    if share > _ZERO:
        base = lerp(base, peek_vector(s, U.subsurface_color), share)
    return lerp(base, _WHITE, clear)


@njit(**SMALL)
def _backdrop_behind(scene, at):
    """RGB [cd/m²] that the camera sees behind the ground, at map coordinates."""
    settings = load_u64(scene, C.settings)
    if load_i32(settings, S.camera_sees_environment) != 0:
        return environment_at(scene, at)[0]
    return load_vector(settings, S.backdrop)


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


@njit(**EXACT)
def trace_path(scene, tree, scratch, point, x, y, index):
    """Follow path number `index` of pixel (x, y) and leave what it brings in the RESULT record.

    Addresses of the scene block, the ray library's tree, the thread's scratch memory and the sample's point. Returns
    the RGB that the light was multiplied by at the end, for the layers.
    """
    settings, materials = load_u64(scene, C.settings), load_u64(scene, C.materials)
    ray, hit, medium = scratch + RAY_AT, scratch + HIT_AT, scratch + MEDIUM_AT
    surface, result, path = scratch + SURFACE_AT, scratch + RESULT_AT, scratch + PATH_AT
    has_layers, has_holes = load_u64(scene, C.layers) != 0, load_i32(settings, S.opacity) != 0
    filtered_alpha = load_f32(settings, S.caustic_alpha)

    origin, direction, sampler = primary_ray(scene, ray, point, x, y, index)
    key = sampler[5]
    copy_media(medium, scratch + AROUND_CAMERA_AT)
    _clear_result(scene, result)
    leave_place(scratch, origin, _UP, False, _EVERY_LINK)
    store_f32(path, P.density, _ZERO)
    note_first(scratch, _WHITE, DIFFUSE)
    radiance, beta, backdrop = _BLACK, _WHITE, _WHITE
    is_catching, reflects, came_out = False, False, False
    wavelength, least_alpha, whole = _ZERO, _ZERO, _ONE
    segment_start = origin
    bounce = 0

    for segment in range(load_i32(settings, S.depth)):
        dimension = AFTER_CAMERA + bounce * _A_BOUNCE
        event, distance, part, primitive, bu, bv, at = CAME_OUT, _ZERO, -1, 0, _ZERO, _ZERO, (_ZERO, _ZERO)
        if not came_out:
            event, distance, met, beta, at = reach(
                scene, tree, scratch, origin, direction, segment_start, beta, sampler, dimension, bounce
            )
            part, primitive, bu, bv = met
        came_out = False

        if event == SKY:
            if bounce == 0:
                store_f32(result, R.alpha, _ZERO)
                radiance = add(radiance, light_behind(scene, scratch, direction, beta, at))
            elif reflects and bounce == 1:
                # The backdrop holds already what an empty floor reflects.
                store_f32(result, R.alpha, _ZERO)
                radiance = add(radiance, note(scene, scratch, backdrop, ENVIRONMENT_GROUP, 0, True))
            else:
                radiance = add(radiance, light_from_afar(scene, scratch, direction, beta, at, bounce))
            break
        if event == LIGHT_MET:
            radiance = add(radiance, light_of_shape(scene, scratch, part, direction, distance, bu, beta, bounce))
            if bounce == 0:
                store_f32(result, R.depth, distance * dot(direction, forward_axis(load_u64(scene, C.camera))))
            break

        here = add(origin, scale(direction, distance))
        n, links, aims_at_light = _UP, _EVERY_LINK, True
        wo = _UP
        clearance, arrives = _ZERO, _ONE
        if event == SURFACE_MET:
            is_hole = has_holes and sees_hole(scene, part, primitive, bu, bv, uniform(key, _OPACITY + segment))
            resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
            here, n = peek_vector(hit, H.position), peek_vector(hit, H.shading)
            if is_hole or is_hidden(scene, medium, hit, wavelength):
                if not is_hole:
                    cross_boundary(scene, medium, hit)
                origin, segment_start = leave_hit(hit, True), here
                continue
            material = peek_i32(hit, H.material)
            if wavelength == _ZERO and load_f32(materials, material * MATERIAL_WIDTH + M.cauchy_b) != _ZERO:
                # From its first dispersing boundary on a path has one wavelength.
                t = draw(sampler, WAVELENGTH)
                wavelength = _SHORTEST + _RANGE * t
                beta = mul(beta, wavelength_weight(t))
            fill_surface(scene, surface, hit, medium, wavelength, least_alpha)
            links, arrives = peek_i32(hit, H.links), peek_f32(hit, H.arrives)
            if bounce == 0:
                _see(scene, result, here, n, distance, direction)
                store_i32(result, R.part, part)
                store_i32(result, R.material, material)
                store_vector(result, R.albedo, _feature_albedo(surface))
            glow = light_of_surface(scene, scratch, part, primitive, direction, distance, beta, bounce)
            radiance = add(radiance, glow)
            wo = to_local(neg(direction), peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), n)
            wo = (wo[0], wo[1], max(wo[2], f32(1e-4)))
            prepare(surface, wo, load_u64(scene, C.albedos), load_u64(scene, C.films))
            aims_at_light = not is_smooth(surface)
        elif event == GROUND:
            here = (here[0], load_f32(settings, S.ground_height), here[2])
            clearance = ROUNDING * max(abs(here[0]), max(abs(here[1]), abs(here[2])))
            arrives = load_f32(settings, S.ground_arrives)
            reflectance = load_vector(settings, S.ground_reflectance)
            if bounce == 0:
                _see(scene, result, here, _UP, distance, direction)
                light = load_vector(settings, S.open_irradiance)
                if min(light[0], min(light[1], light[2])) > _LEAST_IRRADIANCE:
                    # The picture there is the backdrop times (light that arrives / light that would arrive).
                    backdrop = _backdrop_behind(scene, at)
                    share, mirrored = _polish(settings, direction, key)
                    if share > _ZERO:
                        beta = scale(beta, share)
                        origin, direction = leave_surface(here, _UP, clearance), mirrored
                        leave_place(scratch, here, _UP, True, _EVERY_LINK)
                        note_first(scratch, _BLACK, SPECULAR)
                        reflects, bounce = True, 1
                        continue
                    is_catching = True
                    reflectance = (PI / light[0], PI / light[1], PI / light[2])
                    whole = max_component(reflectance)
                else:
                    store_vector(result, R.albedo, reflectance)
            beta = mul(beta, reflectance)
        elif event == SCATTERED:
            if bounce == 0:
                _see(scene, result, here, _BLACK, distance, direction)
        else:
            here, n, clearance = origin, peek_vector(path, P.normal), peek_f32(hit, H.clearance)

        if aims_at_light:
            arrived = aimed_light(
                scene, tree, scratch, event, here, n, clearance, links, arrives, wo, direction, beta, sampler,
                dimension, bounce,
            )  # fmt: skip
            radiance = add(radiance, arrived)

        segment_start = here
        leave_place(scratch, here, n, event != SCATTERED, links)
        is_wide = True
        if event == SURFACE_MET:
            outcome, beta, direction, origin, is_wide = scatter_at_surface(
                scene, tree, scratch, wo, aims_at_light, direction, beta, sampler, dimension, bounce
            )
            if outcome == ENDED:
                break
            came_out = outcome == WALKED
        else:
            if event == SCATTERED:
                direction, origin = scatter_in_medium(scratch, direction, sampler, dimension), here
            else:
                direction, origin = scatter_from_wall(scratch, here, n, clearance, sampler, dimension)
            if has_layers and bounce == 0:
                note_first(scratch, _WHITE, DIFFUSE)
        if filtered_alpha > _ZERO and is_wide:
            least_alpha = filtered_alpha
        bounce += 1

        if bounce > _ROULETTE_FROM and max_component(beta) > _ZERO:
            beta = _survives(beta, whole, bounce, sampler, dimension)
        if not max_component(beta) > _ZERO:
            break

    if is_catching:
        store_f32(result, R.alpha, _ONE - luminance(radiance))
        radiance = mul(radiance, backdrop)
    store_vector(result, R.radiance, radiance)
    return backdrop if is_catching else _WHITE
