"""One segment of a path: what a ray comes to first, and what the medium lets through until there.

In: a ray and the medium it travels in. Out: one of the events below, its distance and what is known of it. Called by
`transport.path`.
"""

from numba import njit
from numpy import float32 as f32

from lantern.film.counting import count
from lantern.kernel.memory import (
    load_i32,
    load_u64,
    peek_i32,
    peek_i64,
    peek_vector,
    store_f32,
    store_i64,
    store_vector,
)
from lantern.kernel.points import draw
from lantern.kernel.random import uniform
from lantern.kernel.vectors import SMALL, dot, max_component, mul, sub
from lantern.light.environment_kernels import expect_lookup
from lantern.light.shapes import CAMERA_SEES, REFLECTIONS_SEE
from lantern.rays.embree import FAR, intersect
from lantern.rays.layout import (
    BOUNCE_RAY,
    BOUNCE_RAYS,
    CAMERA_RAY,
    CAMERA_RAYS,
    MEDIUM,
    RAY_AT,
    SCENE,
    SCRATCH_RECORDS,
    SETTINGS,
)
from lantern.transport.ground import ground_distance
from lantern.transport.medium import CLEAR, HAZE, air_distance, air_length, fading, haze_span, sample_free_path
from lantern.transport.meet_light import nearest_shape

C, S, D = SCENE.slots, SETTINGS.slots, MEDIUM.slots
SKY, GROUND, SURFACE_MET, LIGHT_MET, SCATTERED, CAME_OUT = range(6)
"""What a ray came to. CAME_OUT: a walk under a surface has ended where the path goes on, and no ray was traced."""
_FREE_PATH, _CHANNEL = 8, 9
_LATER = 1 << 14  # hashed
_ZERO = f32(0.0)


@njit(**SMALL)
def record_ray(scratch, origin, direction, far, mask):
    """Keep a ray for the benchmark, if this thread was given room for it."""
    room = peek_i64(scratch, SCRATCH_RECORDS + 2)
    if room == 0:
        return
    used = peek_i64(scratch, SCRATCH_RECORDS + 1)
    if used < room:
        row = used * 8
        records = load_u64(scratch, SCRATCH_RECORDS)
        store_vector(records, row, origin)
        store_vector(records, row + 3, direction)
        store_f32(records, row + 6, far)
        store_f32(records, row + 7, f32(mask))
        store_i64(scratch, SCRATCH_RECORDS + 1, used + 1)


@njit(**SMALL)
def _free_path_numbers(sampler, dimension, segment, is_first):
    """(for the channel, for the distance): every segment has numbers of its own, though a bounce may have several."""
    if is_first:
        return draw(sampler, dimension + _CHANNEL), draw(sampler, dimension + _FREE_PATH)
    return uniform(sampler[5], _LATER + 2 * segment), uniform(sampler[5], _LATER + 2 * segment + 1)


@njit(**SMALL)
def cross_volume(
    settings, medium, event, distance, origin, direction, start, beta, sampler, dimension, segment, is_first
):
    """(event, distance, beta) of a ray whose medium dims or scatters it on its way to an event.

    `start` is where the segment begins: at the boundary, of which the ray's origin has kept clear. `is_first` is the
    first segment of a bounce; later ones go on behind holes and hidden boundaries.
    """
    kind = peek_i32(medium, D.kind)
    # A ray that leaves the scene from within a volume found a hole in its boundary: it is not absorbed.
    if kind == CLEAR or (event == SKY and kind != HAZE):
        return event, distance, beta
    begin, end = -dot(sub(origin, start), direction), distance
    if kind == HAZE:
        begin, end = haze_span(settings, origin, direction, _ZERO, distance)
    if end <= begin:
        return event, distance, beta
    extinction, scattered = peek_vector(medium, D.extinction), peek_vector(medium, D.albedo)
    length = air_length(settings, origin, direction, begin, end) if kind == HAZE else end - begin
    if max_component(scattered) <= _ZERO:
        return event, distance, mul(beta, fading(extinction, length))
    u_channel, u_distance = _free_path_numbers(sampler, dimension, segment, is_first)
    gone, carried = sample_free_path(extinction, beta, length, u_channel, u_distance)
    beta = mul(beta, carried)
    if gone < length:
        if kind == HAZE:
            gone = min(air_distance(settings, origin, direction, begin, gone), end - begin)
        return SCATTERED, max(begin + gone, _ZERO), mul(beta, scattered)
    return event, distance, beta


@njit(**SMALL)
def reach(scene, tree, scratch, origin, direction, bounce, sees):
    """(event, distance, hit, map coordinates) of a ray, whatever medium it travels in.

    The hit is (part, primitive, u, v) of a surface, or (light, 0, |cos θ| there, 0) of a light. Lights are in the way
    only of a ray that `sees` them: from the camera or from a mirror.
    """
    settings, ray = load_u64(scene, C.settings), scratch + RAY_AT
    who = CAMERA_RAY if bounce == 0 else BOUNCE_RAY
    count(scratch, CAMERA_RAYS if bounce == 0 else BOUNCE_RAYS)
    record_ray(scratch, origin, direction, FAR, who)
    map_u, map_v = _ZERO, _ZERO
    if bounce > 0:
        map_u, map_v = expect_lookup(
            load_u64(scene, C.environment),
            load_u64(scene, C.environment_pixels),
            load_u64(scene, C.environment_pdfs),
            direction,
        )
    part, primitive, u, v, distance = intersect(tree, ray, origin, direction, _ZERO, FAR, who)
    event = SURFACE_MET if part >= 0 else SKY
    to_ground = ground_distance(settings, origin, direction)
    if to_ground < distance:
        event, distance = GROUND, to_ground
    if sees and load_i32(settings, S.shaped_lights) != 0:
        wanted = CAMERA_SEES if bounce == 0 else REFLECTIONS_SEE
        number, distance, facing = nearest_shape(scene, ray, origin, direction, distance, wanted)
        if number >= 0:
            event, part, u = LIGHT_MET, number, facing
    return event, distance, (part, primitive, u, v), (map_u, map_v)
