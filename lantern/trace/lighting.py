"""Light at a place: picking one light to aim at, what rays find when they meet a light, and what is in the way.

One light is picked for each place: first near against far, weighing the light tree's estimate at the root against the
known irradiance of environment and sun; then within its group. Densities are of the whole choice, so they can be
weighed against those of the surface (Veach, "Robust Monte Carlo Methods", 1997, section 9.2).
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
from lantern.kernel.vectors import EXACT, SMALL, add, dot, scale, sub, to_world
from lantern.light.environment_kernels import expect_texels, radiance_at, sample_environment
from lantern.light.profiles import profile_intensity
from lantern.light.shapes import (
    CAMERA_SEES,
    LIGHT,
    LIGHT_WIDTH,
    POINT,
    REFLECTIONS_SEE,
    TRIANGLE,
    meet_shape,
    sample_shape,
    shape_density,
)
from lantern.light.tree_kernels import importance, pick_light, pick_probability
from lantern.surface.lookup import MATERIAL_WIDTH, emission_at, opacity_at
from lantern.surface.material import MATERIAL
from lantern.trace.embree import FAR, intersect, is_occluded
from lantern.trace.hit import texture_coordinates
from lantern.trace.layout import (
    EMISSIVE_GROUP,
    ENVIRONMENT_GROUP,
    LIGHT_SAMPLE,
    LIGHT_WEIGHTS_AT,
    PART,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
)
from lantern.trace.medium import transmittance

C, S, L, Q, P, M = SCENE.slots, SETTINGS.slots, LIGHT.slots, LIGHT_SAMPLE.slots, PART.slots, MATERIAL.slots
_PART_WIDTH = PART.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)
_NEVER_ONE = f32(0.99999994)
_SHORT = f32(0.9998)
"""A shadow ray ends this share of the way: the light's own surface must not shade it."""
_MOST_LAYERS = 64


@njit(**SMALL)
def power_heuristic(a, b):
    """Weight of a technique of density a against one of density b, exponent 2; safe for huge densities."""
    if a <= _ZERO:
        return _ZERO
    r = b / a
    return _ONE / (_ONE + r * r)


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


@njit(**SMALL)
def _spot_share(lights, row, cosine):
    """Share of the full intensity of a spot at an angle from its axis; 1 for a light without a cone."""
    outer, inner = load_f32(lights, row + L.cos_outer), load_f32(lights, row + L.cos_inner)
    if outer <= f32(-1.0):
        return _ONE
    if inner <= outer:
        return _ONE if cosine >= outer else _ZERO
    t = min(max((cosine - outer) / (inner - outer), _ZERO), _ONE)
    return t * t * (f32(3.0) - f32(2.0) * t)


@njit(**EXACT)
def _aim_at_point(scene, sample, lights, row, point):
    """Fill the sample for a light of no size: its intensity over distance² stands where radiance over density does."""
    to = sub(load_vector(lights, row + L.position), point)
    square = dot(to, to)
    if square <= f32(1e-18):
        return _ZERO
    distance = math.sqrt(square)
    wi = scale(to, _ONE / distance)
    axis = load_vector(lights, row + L.normal)
    cosine = -dot(wi, axis)
    share = _spot_share(lights, row, cosine)
    profile = load_i32(lights, row + L.profile)
    if profile >= 0:
        across, along = load_vector(lights, row + L.across), load_vector(lights, row + L.along)
        profiles = load_u64(scene, C.light_profiles)
        share *= profile_intensity(profiles, profile, -dot(wi, across), -dot(wi, along), min(max(cosine, -_ONE), _ONE))
    store_vector(sample, Q.direction, wi)
    store_f32(sample, Q.distance, distance)
    store_vector(sample, Q.radiance, scale(load_vector(lights, row + L.radiance), share / square))
    store_i32(sample, Q.is_point, 1)
    return _ONE if share > _ZERO else _ZERO


@njit(**SMALL)
def _glow_of_triangle(scene, lights, row, u1, u2):
    """RGB [cd/m²] of the point of a glowing triangle that `sample_shape` takes for (u1, u2)."""
    part, materials = load_i32(lights, row + L.part), load_u64(scene, C.materials)
    material = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.material)
    u, v = _ZERO, _ZERO
    if load_i32(materials, material * MATERIAL_WIDTH + M.emission_binding) >= 0:
        # Only a map has the triangle's corners read, from three places of memory.
        root = math.sqrt(u1)
        primitive = load_i32(lights, row + L.primitive)
        u, v = texture_coordinates(scene, part, primitive, root - root * u2, root * u2)
    return emission_at(
        materials,
        load_u64(scene, C.textures),
        load_u64(scene, C.bindings),
        load_u64(scene, C.texels),
        material,
        u,
        v,
    )


@njit(**EXACT)
def aim_at_local(scene, sample, point, normal, on_surface, links, u, u1, u2):
    """Pick a local light and a point on it; returns the density."""
    lights = load_u64(scene, C.lights)
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
    kind = load_i32(lights, row + L.kind)
    if kind == POINT:
        return chance * _aim_at_point(scene, sample, lights, row, point)
    wi, distance, density = sample_shape(lights, row, point, u1, u2)
    if density <= _ZERO:
        return _ZERO
    radiance = load_vector(lights, row + L.radiance)
    if kind == TRIANGLE:
        radiance = _glow_of_triangle(scene, lights, row, u1, u2)
    store_vector(sample, Q.direction, wi)
    store_f32(sample, Q.distance, distance)
    store_vector(sample, Q.radiance, radiance)
    return density * chance


@njit(**EXACT)
def _aim_at_distant(scene, sample, settings, links, u, u1, u2):
    """Pick a distant light and a direction to its disk; returns the density among them."""
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
def aim_at_light(scene, sample, point, normal, on_surface, links, arrives, u, u1, u2):
    """Write the LIGHT_SAMPLE of one light for a place; returns the density [1/sr] (1 for no size), 0 for none.

    Its radiance is what `aimed_radiance` says. `arrives` is as for `local_chance`.
    """
    settings = load_u64(scene, C.settings)
    near = local_chance(scene, settings, point, normal, on_surface, arrives)
    store_f32(sample, Q.local_chance, near)
    store_i32(sample, Q.is_point, 0)
    store_i32(sample, Q.from_map, 0)
    if u < near:
        u = min(u / near, _NEVER_ONE)
        return near * aim_at_local(scene, sample, point, normal, on_surface, links, u, u1, u2)
    u = min((u - near) / (_ONE - near), _NEVER_ONE)
    sky = load_f32(settings, S.environment_chance)
    if u >= sky:
        if load_i32(settings, S.distant_lights) == 0:
            return _ZERO
        u = min((u - sky) / (_ONE - sky), _NEVER_ONE)
        return (_ONE - near) * (_ONE - sky) * _aim_at_distant(scene, sample, settings, links, u, u1, u2)
    wi, u, v, density = sample_environment(
        load_u64(scene, C.environment),
        load_u64(scene, C.environment_rows),
        load_u64(scene, C.environment_cells),
        load_u64(scene, C.environment_guides),
        load_u64(scene, C.environment_densities),
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
    return (_ONE - near) * sky * density


@njit(**SMALL)
def aimed_radiance(scene, sample):
    """RGB that comes along a LIGHT_SAMPLE: cd/m², for a light of no size lx."""
    if peek_i32(sample, Q.from_map) == 0:
        return peek_vector(sample, Q.radiance)
    u, v = peek_f32(sample, Q.map_u), peek_f32(sample, Q.map_v)
    return radiance_at(load_u64(scene, C.environment), load_u64(scene, C.environment_pixels), u, v)


@njit(**EXACT)
def triangle_density(scene, sample, part, primitive, direction, distance, origin, normal, on_surface):
    """(density with which `aim_at_light` from `origin` picks this point of an emissive triangle, its light group)."""
    lights = load_u64(scene, C.lights)
    begin = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.triangle_lights)
    if begin < 0:
        return _ZERO, EMISSIVE_GROUP
    number = load_i32(load_u64(scene, C.triangle_lights), begin + primitive)
    if number < 0:
        return _ZERO, EMISSIVE_GROUP
    row = number * LIGHT_WIDTH
    facing = -dot(direction, load_vector(lights, row + L.normal))
    nodes, shares = load_u64(scene, C.light_nodes), load_u64(scene, C.light_shares)
    chance = pick_probability(nodes, shares, lights, origin, normal, on_surface, number, sample + LIGHT_WEIGHTS_AT)
    density = shape_density(lights, row, origin, direction, distance, facing)
    return density * chance * peek_f32(sample, Q.local_chance), load_i32(lights, row + L.group)


@njit(**EXACT)
def meet_light(scene, ray, origin, direction, distance, from_camera):
    """(light, distance, |cos θ|) of the nearest shaped light in front of `distance`; light is -1 for none."""
    tree, owners = load_u64(scene, C.shape_tree), load_u64(scene, C.shape_owners)
    lights = load_u64(scene, C.lights)
    wanted = CAMERA_SEES if from_camera else REFLECTIONS_SEE
    near = _ZERO
    for _ in range(_MOST_LAYERS):
        found, primitive, _, _, at = intersect(tree, ray, origin, direction, near, distance, -1)
        if found < 0:
            break
        number = load_i32(owners, primitive)
        row = number * LIGHT_WIDTH
        if load_i32(lights, row + L.seen) & wanted:
            # The proxy is a little larger than the shape, so the shape may lie behind it or be missed.
            on_shape, facing = meet_shape(lights, row, origin, direction)
            if on_shape > _ZERO and on_shape < distance:
                return number, on_shape, facing
        near = at * f32(1.0001) + f32(1e-7)
    return -1, distance, _ZERO


@njit(**EXACT)
def distant_radiance(scene, settings, direction, from_camera, links, lobe_density, near):
    """(RGB of the distant disks that a ray runs into, group of the last), each weighed against having been aimed at.

    `lobe_density` is 0 when nothing was aimed at, so that the light counts whole.
    """
    lights = load_u64(scene, C.lights)
    first = load_i32(settings, S.distant_first)
    wanted = CAMERA_SEES if from_camera else REFLECTIONS_SEE
    far = (_ONE - near) * (_ONE - load_f32(settings, S.environment_chance))
    total, group = _BLACK, ENVIRONMENT_GROUP
    for i in range(load_i32(settings, S.distant_lights)):
        row = (first + i) * LIGHT_WIDTH
        span = load_f32(lights, row + L.area)
        # Compared by the chord: cosines of a disk a quarter of a degree wide differ in their last bits only.
        off = sub(direction, load_vector(lights, row + L.normal))
        seen = load_i32(lights, row + L.seen) & wanted and lit_by(links, load_i32(lights, row + L.link))
        if seen and span > _ZERO and dot(off, off) <= f32(2.0) * span:
            weight = _ONE
            if lobe_density > _ZERO:
                density = far * load_f32(lights, row + L.chance) / (TWO_PI * span)
                weight = power_heuristic(lobe_density, density)
            total = add(total, scale(load_vector(lights, row + L.radiance), weight))
            group = load_i32(lights, row + L.group)
    return total, group


@njit(**EXACT)
def _see_through(scene, tree, ray, origin, direction, far):
    """Share of light that parts with holes let through."""
    through, near = _ONE, _ZERO
    materials = load_u64(scene, C.materials)
    for _ in range(_MOST_LAYERS):
        part, primitive, bu, bv, at = intersect(tree, ray, origin, direction, near, far, SHADOW_RAY)
        if part < 0:
            return through
        material = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.material)
        if load_i32(materials, material * MATERIAL_WIDTH + M.lets_through) == 0:
            return _ZERO
        u, v = texture_coordinates(scene, part, primitive, bu, bv)
        textures, bindings = load_u64(scene, C.textures), load_u64(scene, C.bindings)
        through *= _ONE - opacity_at(materials, textures, bindings, load_u64(scene, C.texels), material, u, v)
        if through <= _ZERO:
            return _ZERO
        near = at * f32(1.00001) + f32(1e-7)
    return _ZERO


@njit(**EXACT)
def light_through(scene, tree, ray, medium, origin, direction, distance):
    """RGB share [0, 1] of light that comes along a shadow ray: parts, holes in them, and the medium."""
    settings = load_u64(scene, C.settings)
    far = distance * _SHORT if distance < FAR else FAR
    through = _ONE
    if load_i32(settings, S.opacity) != 0:
        through = _see_through(scene, tree, ray, origin, direction, far)
    elif is_occluded(tree, ray, origin, direction, far, SHADOW_RAY):
        return _BLACK
    if through <= _ZERO:
        return _BLACK
    return scale(transmittance(medium, settings, origin, direction, distance), through)
