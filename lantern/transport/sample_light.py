"""Light that a place aims at: one light is picked, and a point on it.

One light is picked for each place: first near against far, weighing the light tree's estimate at the root against the
known irradiance of environment and sun; then within its group. Pdfs are of the whole choice, so they can be weighed
against those of the surface (`weights`).
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import TWO_PI, sincos_turn
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
from lantern.kernel.vectors import EXACT, SMALL, add, dot, mul, scale, sub, to_world
from lantern.light.environment_kernels import expect_texels, radiance_at, sample_environment
from lantern.light.profiles import profile_intensity
from lantern.light.shapes import LIGHT, LIGHT_WIDTH, POINT, REFLECTIONS_SEE, TRIANGLE, sample_shape, spot_share
from lantern.light.shaping import share_let_out, thrown
from lantern.light.tree_kernels import importance, pick_light
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.rays.attributes import fill_point
from lantern.rays.embree import FAR
from lantern.rays.layout import (
    LIGHT_AT,
    LIGHT_SAMPLE,
    LIGHT_WEIGHTS_AT,
    OTHER_HIT_AT,
    OTHER_SURFACE_AT,
    PART,
    POINT_IN_HIT,
    SCENE,
    SETTINGS,
)
from lantern.surface.lookup import emission_at, opacity_at

C, S, L, Q, P, M = SCENE.slots, SETTINGS.slots, LIGHT.slots, LIGHT_SAMPLE.slots, PART.slots, MATERIAL.slots
_PART_WIDTH = PART.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_NEVER_ONE = f32(0.99999994)


@njit(**SMALL)
def lit_by(links, link):
    """Whether a place with these link bits is lit by a light of linking set `link` (-1 lights everything)."""
    return link < 0 or (links >> link) & 1 != 0


@njit(**EXACT)
def local_chance(scene, settings, point, normal, on_surface, arrives):
    """Probability that a place aims at a local light rather than at what is far away.

    `arrives` is the share of the local lights' light that is not stopped on its way there, as probes found.
    """
    if load_i32(settings, S.local_lights) == 0:
        return _ZERO
    near = arrives * importance(load_u64(scene, C.light_nodes), point, normal, on_surface)
    far = load_f32(settings, S.far_irradiance)
    if far <= _ZERO:
        return _ONE if near > _ZERO else _ZERO
    if near <= _ZERO:
        return _ZERO
    # Both are estimates: neither may starve the other.
    return min(max(near / (near + far), f32(0.04)), f32(0.95))


@njit(**EXACT)
def _sample_point(scene, sample, lights, row, point):
    """Fill the sample for a light of no size: its intensity over distance² stands where radiance over density does."""
    to = sub(load_vector(lights, row + L.position), point)
    square = dot(to, to)
    if square <= f32(1e-18):
        return _ZERO
    distance = math.sqrt(square)
    wi = scale(to, _ONE / distance)
    axis = load_vector(lights, row + L.normal)
    cosine = -dot(wi, axis)
    share = spot_share(cosine, load_f32(lights, row + L.cos_inner), load_f32(lights, row + L.cos_outer))
    profile = load_i32(lights, row + L.profile)
    if profile >= 0:
        across, along = load_vector(lights, row + L.across), load_vector(lights, row + L.along)
        profiles = load_u64(scene, C.light_profiles)
        share *= profile_intensity(profiles, profile, -dot(wi, across), -dot(wi, along), min(max(cosine, -_ONE), _ONE))
    radiance = scale(load_vector(lights, row + L.radiance), share / square)
    shaping = load_i32(lights, row + L.shaping)
    if shaping >= 0:
        gates = load_u64(scene, C.light_gates)
        radiance = mul(radiance, thrown(lights, row, load_u64(scene, C.light_shapings), shaping, gates, wi))
    store_vector(sample, Q.direction, wi)
    store_f32(sample, Q.distance, distance)
    store_vector(sample, Q.radiance, radiance)
    store_i32(sample, Q.is_point, 1)
    return _ONE if share > _ZERO else _ZERO


@njit(**EXACT)
def _glow_of_triangle(scene, scratch, row, u1, u2, wi):
    """RGB [cd/m²] that the point of a glowing triangle which `sample_shape` takes for (u1, u2) sends against wi."""
    lights, tables, materials = load_u64(scene, C.lights), load_u64(scene, C.shading), load_u64(scene, C.materials)
    part, point = int(load_i32(lights, row + L.part)), scratch + OTHER_HIT_AT + POINT_IN_HIT
    material = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.material)
    at = material * MATERIAL_WIDTH
    has_holes = load_i32(materials, at + M.lets_through) != 0
    needs = load_i32(materials, at + M.emission_needs)
    if has_holes:
        needs |= load_i32(materials, at + M.opacity_needs)
    if needs != 0:
        # Only an image has the triangle's corners read, from three places of memory.
        root = math.sqrt(u1)
        primitive = int(load_i32(lights, row + L.primitive))
        fill_point(scene, point, part, primitive, root - root * u2, root * u2, int(needs))
    facing = -dot(wi, load_vector(lights, row + L.normal))
    glow = emission_at(tables, scratch + OTHER_SURFACE_AT, material, point, abs(facing), facing > _ZERO)
    return scale(glow, opacity_at(tables, material, point)) if has_holes else glow


@njit(**SMALL)
def radiance_of_shape(scene, row, at, wi):
    """RGB [cd/m²] that the place `at` of a shaped light sends against wi."""
    lights = load_u64(scene, C.lights)
    radiance, shaping = load_vector(lights, row + L.radiance), load_i32(lights, row + L.shaping)
    if shaping < 0:
        return radiance
    return scale(radiance, share_let_out(lights, row, load_u64(scene, C.light_shapings), shaping, at, wi))


@njit(**EXACT)
def sample_local(scene, scratch, point, normal, on_surface, links, u, u1, u2):
    """Pick a local light and a point on it; returns the pdf."""
    lights, sample = load_u64(scene, C.lights), scratch + LIGHT_AT
    number, chance = pick_light(
        load_u64(scene, C.light_nodes),
        load_u64(scene, C.light_shares),
        point,
        normal,
        on_surface,
        u,
        sample + LIGHT_WEIGHTS_AT,
    )
    if number < 0:
        return _ZERO
    row = number * LIGHT_WIDTH
    if not lit_by(links, load_i32(lights, row + L.link)):
        return _ZERO
    store_i32(sample, Q.group, load_i32(lights, row + L.group))
    store_i32(sample, Q.casts, load_i32(lights, row + L.casts))
    store_i32(sample, Q.glossy, load_i32(lights, row + L.seen) & REFLECTIONS_SEE)
    kind = load_i32(lights, row + L.kind)
    if kind == POINT:
        return chance * _sample_point(scene, sample, lights, row, point)
    wi, distance, pdf = sample_shape(lights, row, point, u1, u2)
    if pdf <= _ZERO:
        return _ZERO
    if kind == TRIANGLE:
        radiance = _glow_of_triangle(scene, scratch, row, u1, u2, wi)
    else:
        radiance = radiance_of_shape(scene, row, add(point, scale(wi, distance)), wi)
    store_vector(sample, Q.direction, wi)
    store_f32(sample, Q.distance, distance)
    store_vector(sample, Q.radiance, radiance)
    return pdf * chance


@njit(**EXACT)
def _sample_distant(scene, sample, settings, links, u, u1, u2):
    """Pick a distant light and a direction to its disk; returns the pdf among them."""
    lights = load_u64(scene, C.lights)
    first, count = load_i32(settings, S.distant_first), load_i32(settings, S.distant_lights)
    row = first * LIGHT_WIDTH
    for i in range(count):
        row = (first + i) * LIGHT_WIDTH
        chance = load_f32(lights, row + L.chance)
        if u < chance or i == count - 1:
            break
        u -= chance
    if not lit_by(links, load_i32(lights, row + L.link)):
        return _ZERO
    chance = load_f32(lights, row + L.chance)
    store_i32(sample, Q.group, load_i32(lights, row + L.group))
    store_i32(sample, Q.casts, load_i32(lights, row + L.casts))
    store_i32(sample, Q.glossy, load_i32(lights, row + L.seen) & REFLECTIONS_SEE)
    store_f32(sample, Q.distance, FAR)
    store_vector(sample, Q.radiance, load_vector(lights, row + L.radiance))
    axis = load_vector(lights, row + L.normal)
    span = load_f32(lights, row + L.area)
    if span <= _ZERO:
        store_vector(sample, Q.direction, axis)
        store_i32(sample, Q.is_point, 1)
        return chance
    lift = span * u1
    sine = math.sqrt(lift * (f32(2.0) - lift))
    s, c = sincos_turn(u2)
    across, along = load_vector(lights, row + L.across), load_vector(lights, row + L.along)
    store_vector(sample, Q.direction, to_world((sine * c, sine * s, _ONE - lift), across, along, axis))
    return chance / (TWO_PI * span)


@njit(**EXACT)
def sample_light(scene, scratch, point, normal, on_surface, links, arrives, u, u1, u2):
    """Write the LIGHT_SAMPLE of one light for a place; returns the pdf [1/sr] (1 for no size), 0 for none.

    Its radiance is what `aimed_radiance` says. `arrives` is as for `local_chance`.
    """
    settings, sample = load_u64(scene, C.settings), scratch + LIGHT_AT
    near = local_chance(scene, settings, point, normal, on_surface, arrives)
    store_f32(sample, Q.local_chance, near)
    store_i32(sample, Q.is_point, 0)
    store_i32(sample, Q.from_map, 0)
    if u < near:
        u = min(u / near, _NEVER_ONE)
        return near * sample_local(scene, scratch, point, normal, on_surface, links, u, u1, u2)
    u = min((u - near) / (_ONE - near), _NEVER_ONE)
    sky = load_f32(settings, S.environment_chance)
    if u >= sky:
        if load_i32(settings, S.distant_lights) == 0:
            return _ZERO
        u = min((u - sky) / (_ONE - sky), _NEVER_ONE)
        return (_ONE - near) * (_ONE - sky) * _sample_distant(scene, sample, settings, links, u, u1, u2)
    wi, u, v, pdf = sample_environment(
        load_u64(scene, C.environment),
        load_u64(scene, C.environment_rows),
        load_u64(scene, C.environment_cells),
        load_u64(scene, C.environment_guides),
        load_u64(scene, C.environment_pdfs),
        load_u64(scene, C.environment_edges),
        u1,
        u2,
    )
    store_vector(sample, Q.direction, wi)
    store_f32(sample, Q.distance, FAR)
    # The texels are asked for now and read when the shadow ray has been traced.
    expect_texels(load_u64(scene, C.environment), load_u64(scene, C.environment_pixels), u, v)
    store_f32(sample, Q.map_u, u)
    store_f32(sample, Q.map_v, v)
    store_i32(sample, Q.from_map, 1)
    store_i32(sample, Q.group, 0)
    store_i32(sample, Q.casts, 1)
    store_i32(sample, Q.glossy, 1)
    return (_ONE - near) * sky * pdf


@njit(**SMALL)
def seen_of_map(scene, u, v, light, share):
    """What a place sees of the map at (u, v), whose scattering is diffuse to a `share` in RGB; matt sees `light`.

    The rest is gloss, which may see the map blurred by another amount.
    """
    if load_i32(load_u64(scene, C.settings), S.gloss_sees_other) == 0:
        return light
    other = radiance_at(load_u64(scene, C.reflected), load_u64(scene, C.reflected_pixels), u, v)
    return (
        other[0] + (light[0] - other[0]) * share[0],
        other[1] + (light[1] - other[1]) * share[1],
        other[2] + (light[2] - other[2]) * share[2],
    )


@njit(**SMALL)
def aimed_radiance(scene, sample, share):
    """RGB that comes along a LIGHT_SAMPLE to a place, diffuse to a `share`: cd/m², for a light of no size lx."""
    if peek_i32(sample, Q.from_map) == 0:
        return peek_vector(sample, Q.radiance)
    u, v = peek_f32(sample, Q.map_u), peek_f32(sample, Q.map_v)
    light = radiance_at(load_u64(scene, C.environment), load_u64(scene, C.environment_pixels), u, v)
    return seen_of_map(scene, u, v, light, share)
