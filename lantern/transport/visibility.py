"""What the switches of parts and lights mean, for every kind of path, and the general way to obey them.

A place scatters light in two ways, and the switches are about them. Matt are diffuse lobes, light from under a surface,
the ground and haze; gloss are reflection and refraction lobes and mirrors.

* Light of a light on its way to matt is stopped by parts that cast shadow, and by no others; by none where the place's
  part does not receive shadow or the light casts none. On its way to gloss it is stopped by parts that are seen in
  reflections.
* A light, or a part that glows, that is not seen in reflections lights matt as others do, and is not there for gloss.
* Light that parts scatter comes, to matt and to gloss, from parts that are seen in reflections.
* The camera sees parts and lights that are seen by the camera, and those hide what is behind them. A mirror-like place
  aims at no light: it sees lights as it sees parts.
* A part that is not visible is not there at all.

Where parts are both seen and cast shadow, or neither, one ray says all: `next_event` and `emitted` do so. Elsewhere
(the setting `apart`) a scattered ray and the light along it are told apart: `light_along` finds all light in the
direction of the ray as aiming would, and what the ray itself runs into brings none.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, load_u64, load_vector, peek_f32, peek_i32, peek_vector
from lantern.kernel.vectors import EXACT, SMALL, add, dot, max_component, mul, scale
from lantern.light.environment_kernels import map_coordinates
from lantern.light.shapes import LIGHT, LIGHT_WIDTH, REFLECTIONS_SEE
from lantern.rays.embree import FAR, intersect
from lantern.rays.hit import leave_hit, resolve_hit
from lantern.rays.layout import (
    BOUNCE_RAY,
    ENVIRONMENT_GROUP,
    GLOW_RAY,
    HIT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM_AT,
    OTHER_HIT_AT,
    OTHER_SURFACE_AT,
    PART,
    PATH,
    PATH_AT,
    POINT_IN_HIT,
    RAY_AT,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
)
from lantern.rays.placement import PART_WIDTH
from lantern.surface.lookup import emission_at
from lantern.transport.boundary import opacity_of
from lantern.transport.emitted import environment_at, note
from lantern.transport.ground import ground_distance
from lantern.transport.meet_light import meets_disk, next_shape, pdf_of_disk, pdf_of_shape, pdf_of_triangle
from lantern.transport.sample_light import lit_by, radiance_of_shape, seen_of_map
from lantern.transport.shadow import light_through
from lantern.transport.weights import weight_of_met

C, S, H, L, P, Q, W = (
    SCENE.slots,
    SETTINGS.slots,
    HIT.slots,
    LIGHT.slots,
    PART.slots,
    LIGHT_SAMPLE.slots,
    PATH.slots,
)
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)
_MOST = 64


@njit(**EXACT)
def lets_in(scene, tree, scratch, medium, origin, direction, distance, matt, receives, casts, glossy):
    """RGB share of light along a ray that a place answers to: `matt` rgb of its answer is, the rest is gloss.

    `receives` is about the place, `casts` and `glossy` are about the light.
    """
    share = _BLACK
    if max_component(matt) > _ZERO:
        mask = SHADOW_RAY if receives and casts else 0
        share = mul(matt, light_through(scene, tree, scratch, medium, origin, direction, distance, mask))
    gloss = (_ONE - matt[0], _ONE - matt[1], _ONE - matt[2])
    if glossy and max_component(gloss) > f32(1e-6):
        through = light_through(scene, tree, scratch, medium, origin, direction, distance, BOUNCE_RAY)
        share = add(share, mul(gloss, through))
    return share


@njit(**SMALL)
def _let_in(scene, tree, scratch, origin, direction, distance, casts, glossy):
    """`lets_in` for the place in the PATH record."""
    path = scratch + PATH_AT
    matt, receives = peek_vector(path, W.matt), peek_i32(path, W.receives_shadow) != 0
    medium = scratch + MEDIUM_AT
    return lets_in(scene, tree, scratch, medium, origin, direction, distance, matt, receives, casts, glossy)


@njit(**SMALL)
def _shapes_along(scene, tree, scratch, origin, direction, far, beta, bounce):
    settings, lights, path = load_u64(scene, C.settings), load_u64(scene, C.lights), scratch + PATH_AT
    total, near = _BLACK, _ZERO
    for _ in range(_MOST):
        number, at, facing, near = next_shape(scene, scratch + RAY_AT, origin, direction, near, far, 0)
        if number < 0:
            break
        row = number * LIGHT_WIDTH
        if lit_by(peek_i32(path, W.links), load_i32(lights, row + L.link)):
            casts, glossy = load_i32(lights, row + L.casts) != 0, load_i32(lights, row + L.seen) & REFLECTIONS_SEE != 0
            aimed = pdf_of_shape(scene, scratch, number, direction, at, facing)
            sent = radiance_of_shape(scene, row, add(origin, scale(direction, at)), direction)
            light = scale(sent, weight_of_met(settings, peek_f32(path, W.pdf), aimed))
            share = _let_in(scene, tree, scratch, origin, direction, at, casts, glossy)
            group = load_i32(lights, row + L.group)
            total = add(total, note(scene, scratch, mul(mul(beta, light), share), group, bounce, False))
    return total


@njit(**SMALL)
def _glow_along(scene, tree, scratch, origin, direction, far, beta, bounce):
    """Light of glowing parts along a ray, whoever else sees them."""
    settings, path = load_u64(scene, C.settings), scratch + PATH_AT
    ray, hit = scratch + RAY_AT, scratch + OTHER_HIT_AT
    total, start, gone = _BLACK, origin, _ZERO
    for _ in range(_MOST):
        part, primitive, bu, bv, at = intersect(tree, ray, start, direction, _ZERO, far - gone, GLOW_RAY)
        if part < 0:
            break
        resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
        start, gone = leave_hit(hit, True), gone + at
        facing = -dot(direction, peek_vector(hit, H.geometric))
        light = emission_at(
            load_u64(scene, C.shading), scratch + OTHER_SURFACE_AT, peek_i32(hit, H.material), hit + POINT_IN_HIT,
            abs(facing), peek_i32(hit, H.entering) != 0,
        )  # fmt: skip
        light = scale(light, opacity_of(scene, hit))
        if max_component(light) > _ZERO:
            aimed, group = pdf_of_triangle(scene, scratch, part, primitive, direction, gone)
            light = scale(light, weight_of_met(settings, peek_f32(path, W.pdf), aimed))
            glossy = load_i32(load_u64(scene, C.parts), part * PART_WIDTH + P.glossy) != 0
            share = _let_in(scene, tree, scratch, origin, direction, gone, True, glossy)
            total = add(total, note(scene, scratch, mul(mul(beta, light), share), group, bounce, False))
    return total


@njit(**SMALL)
def _afar_along(scene, tree, scratch, origin, direction, beta, bounce):
    """Light of the environment and of distant lights in the direction of a ray."""
    settings, lights, path = load_u64(scene, C.settings), load_u64(scene, C.lights), scratch + PATH_AT
    near, pdf = peek_f32(scratch + LIGHT_AT, Q.local_chance), peek_f32(path, W.pdf)
    u, v = map_coordinates(load_u64(scene, C.environment), direction)
    sky, sky_pdf = environment_at(scene, (u, v))
    sky = seen_of_map(scene, u, v, sky, peek_vector(path, W.matt))
    aimed = sky_pdf * load_f32(settings, S.environment_chance) * (_ONE - near)
    share = _let_in(scene, tree, scratch, origin, direction, FAR, True, True)
    light = scale(mul(beta, sky), weight_of_met(settings, pdf, aimed))
    total = note(scene, scratch, mul(light, share), ENVIRONMENT_GROUP, bounce, False)
    for i in range(load_i32(settings, S.distant_lights)):
        row = (load_i32(settings, S.distant_first) + i) * LIGHT_WIDTH
        if lit_by(peek_i32(path, W.links), load_i32(lights, row + L.link)) and meets_disk(lights, row, direction):
            casts, glossy = load_i32(lights, row + L.casts) != 0, load_i32(lights, row + L.seen) & REFLECTIONS_SEE != 0
            weight = weight_of_met(settings, pdf, pdf_of_disk(scene, settings, row, near))
            light = mul(beta, scale(load_vector(lights, row + L.radiance), weight))
            share = _let_in(scene, tree, scratch, origin, direction, FAR, casts, glossy)
            group = load_i32(lights, row + L.group)
            total = add(total, note(scene, scratch, mul(light, share), group, bounce, False))
    return total


@njit(**EXACT)
def light_along(scene, tree, scratch, origin, direction, beta, bounce):
    """RGB [cd/m²] of all light in the direction of a ray from the place in the PATH record, which aims at lights.

    `beta` is what the path carries after the scattering there.
    """
    settings = load_u64(scene, C.settings)
    far = ground_distance(settings, origin, direction)
    total = _glow_along(scene, tree, scratch, origin, direction, far, beta, bounce)
    if load_i32(settings, S.shaped_lights) != 0:
        total = add(total, _shapes_along(scene, tree, scratch, origin, direction, far, beta, bounce))
    if far >= FAR:
        total = add(total, _afar_along(scene, tree, scratch, origin, direction, beta, bounce))
    return total
