"""Light that a ray runs into: what is behind the scene, shaped lights, glowing surfaces.

Each function returns the RGB [cd/m²] that the path brings from there, weighed against the chance that the place which
the ray left had aimed at it (Veach, "Robust Monte Carlo Methods", 1997, section 9.2), and adds it to the layers.
Called by `trace.path`.
"""

from numba import njit
from numpy import float32 as f32

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
from lantern.kernel.vectors import SMALL, add, max_component, mul, scale
from lantern.light.environment_kernels import radiance_and_density
from lantern.light.shapes import LIGHT, LIGHT_WIDTH, shape_density
from lantern.light.tree_kernels import pick_probability
from lantern.surface.lookup import MATERIAL_WIDTH, emission_at
from lantern.surface.material import MATERIAL
from lantern.trace.layers import deposit, deposit_seen
from lantern.trace.layout import (
    ENVIRONMENT_GROUP,
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    LIGHT_WEIGHTS_AT,
    PATH,
    PATH_AT,
    RESULT,
    RESULT_AT,
    SCENE,
    SETTINGS,
)
from lantern.trace.lighting import distant_radiance, lit_by, power_heuristic, triangle_density

C, S, H, L, M = SCENE.slots, SETTINGS.slots, HIT.slots, LIGHT.slots, MATERIAL.slots
P, Q, R = PATH.slots, LIGHT_SAMPLE.slots, RESULT.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK = (_ZERO, _ZERO, _ZERO)


@njit(**SMALL)
def note(scene, scratch, brought, group, bounce, is_background):
    """Add light to the layers, if the film has any; returns it."""
    if load_u64(scene, C.layers) != 0:
        path, result = scratch + PATH_AT, scratch + RESULT_AT
        if bounce == 0:
            deposit_seen(result, brought, group, is_background)
        else:
            deposit(result, brought, group, bounce == 1, peek_vector(path, P.share), peek_i32(path, P.kind))
    return brought


@njit(**SMALL)
def environment_at(scene, at):
    """(radiance, density with which the map is aimed there) at map coordinates from `segment.reach`."""
    return radiance_and_density(
        load_u64(scene, C.environment),
        load_u64(scene, C.environment_pixels),
        load_u64(scene, C.environment_densities),
        at[0],
        at[1],
    )


@njit(**SMALL)
def light_behind(scene, scratch, direction, beta, at):
    """What the camera sees behind everything: the environment with its sun, or the plain backdrop."""
    settings = load_u64(scene, C.settings)
    if load_i32(settings, S.camera_sees_environment) == 0:
        seen = mul(beta, load_vector(settings, S.backdrop))
        return note(scene, scratch, seen, ENVIRONMENT_GROUP, 0, True)
    sky = environment_at(scene, at)[0]
    store_vector(scratch + RESULT_AT, R.albedo, (min(sky[0], _ONE), min(sky[1], _ONE), min(sky[2], _ONE)))
    seen = note(scene, scratch, mul(beta, sky), ENVIRONMENT_GROUP, 0, True)
    if load_i32(settings, S.distant_lights) != 0:
        path = scratch + PATH_AT
        disks, group = distant_radiance(scene, settings, direction, True, peek_i32(path, P.links), _ZERO, _ZERO)
        seen = add(seen, note(scene, scratch, mul(beta, disks), group, 0, True))
    return seen


@njit(**SMALL)
def light_from_afar(scene, scratch, direction, beta, at, bounce):
    """Light of the environment and of distant lights for a ray that has left a place and meets nothing."""
    settings, path = load_u64(scene, C.settings), scratch + PATH_AT
    density, near = peek_f32(path, P.density), peek_f32(scratch + LIGHT_AT, Q.local_chance)
    sky, sky_density = environment_at(scene, at)
    weight = _ONE
    if density > _ZERO:
        weight = power_heuristic(density, sky_density * load_f32(settings, S.environment_chance) * (_ONE - near))
    brought = note(scene, scratch, mul(beta, scale(sky, weight)), ENVIRONMENT_GROUP, bounce, False)
    if load_i32(settings, S.distant_lights) != 0:
        links = peek_i32(path, P.links)
        disks, group = distant_radiance(scene, settings, direction, False, links, density, near)
        brought = add(brought, note(scene, scratch, mul(beta, disks), group, bounce, False))
    return brought


@njit(**SMALL)
def light_of_shape(scene, scratch, number, direction, distance, facing, beta, bounce):
    """Light of a shaped light that a ray meets at |cos θ| `facing`."""
    lights, path = load_u64(scene, C.lights), scratch + PATH_AT
    row = number * LIGHT_WIDTH
    if not lit_by(peek_i32(path, P.links), load_i32(lights, row + L.link)):
        return _BLACK
    weight, density = _ONE, peek_f32(path, P.density)
    if density > _ZERO:
        point = peek_vector(path, P.point)
        aimed = pick_probability(
            load_u64(scene, C.light_nodes),
            load_u64(scene, C.light_shares),
            lights,
            point,
            peek_vector(path, P.normal),
            peek_i32(path, P.on_surface) != 0,
            number,
            scratch + LIGHT_AT + LIGHT_WEIGHTS_AT,
        )
        aimed *= peek_f32(scratch + LIGHT_AT, Q.local_chance)
        aimed *= shape_density(lights, row, point, direction, distance, facing)
        weight = power_heuristic(density, aimed)
    brought = mul(beta, scale(load_vector(lights, row + L.radiance), weight))
    return note(scene, scratch, brought, load_i32(lights, row + L.group), bounce, False)


@njit(**SMALL)
def light_of_surface(scene, scratch, part, primitive, direction, distance, beta, bounce):
    """Light of the surface in the HIT record, if it glows on this side."""
    hit, path = scratch + HIT_AT, scratch + PATH_AT
    materials, material = load_u64(scene, C.materials), peek_i32(hit, H.material)
    flat = load_vector(materials, material * MATERIAL_WIDTH + M.emission)
    if max_component(flat) <= _ZERO or peek_i32(hit, H.entering) == 0:
        return _BLACK
    emission = emission_at(
        materials,
        load_u64(scene, C.textures),
        load_u64(scene, C.bindings),
        load_u64(scene, C.texels),
        material,
        peek_f32(hit, H.u),
        peek_f32(hit, H.v),
    )
    aimed, group = triangle_density(
        scene,
        scratch + LIGHT_AT,
        part,
        primitive,
        direction,
        distance,
        peek_vector(path, P.point),
        peek_vector(path, P.normal),
        peek_i32(path, P.on_surface) != 0,
    )
    density = peek_f32(path, P.density)
    weight = power_heuristic(density, aimed) if density > _ZERO else _ONE
    return note(scene, scratch, mul(beta, scale(emission, weight)), group, bounce, False)
