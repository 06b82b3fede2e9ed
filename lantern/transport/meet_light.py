"""Light that a ray runs into: which light it is, and the pdf with which it would have been aimed at."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import TWO_PI
from lantern.kernel.memory import load_f32, load_i32, load_u64, load_vector, peek_f32, peek_i32, peek_vector
from lantern.kernel.vectors import EXACT, SMALL, dot, sub
from lantern.light.shapes import DISK, LIGHT, LIGHT_WIDTH, meet_shape, shape_pdf
from lantern.light.tree_kernels import pick_probability
from lantern.rays.embree import FAR, intersect_bare
from lantern.rays.layout import (
    EMISSIVE_GROUP,
    LIGHT_AT,
    LIGHT_SAMPLE,
    LIGHT_WEIGHTS_AT,
    PART,
    PATH,
    PATH_AT,
    SCENE,
    SETTINGS,
)

C, S, L, Q, P = SCENE.slots, SETTINGS.slots, LIGHT.slots, LIGHT_SAMPLE.slots, PART.slots
W = PATH.slots
_PART_WIDTH = PART.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_MOST_LAYERS = 64


@njit(**EXACT)
def next_shape(scene, ray, origin, direction, near, far, wanted):
    """(light, distance, |cos θ|, distance to look on from) of the next shaped light that a ray meets before `far`.

    Light is -1 when there are no more; they come in no particular order. Only lights whose `seen` has a bit of `wanted`
    count, all of them when that is 0.
    """
    tree, owners, lights = load_u64(scene, C.shape_tree), load_u64(scene, C.shape_owners), load_u64(scene, C.lights)
    for _ in range(_MOST_LAYERS):
        found, primitive, _, _, at = intersect_bare(tree, ray, origin, direction, near, FAR)
        if found < 0:
            break
        number = load_i32(owners, primitive)
        row = number * LIGHT_WIDTH
        near = at * f32(1.00001) + f32(1e-9)
        if wanted == 0 or load_i32(lights, row + L.seen) & wanted:
            on_shape, facing = meet_shape(lights, row, origin, direction)
            # A box around a shape is met by its far side, which a ray that begins within it meets as well.
            is_flat = load_i32(lights, row + L.kind) <= DISK
            if on_shape > _ZERO and on_shape < far and (is_flat or at > on_shape):
                return number, on_shape, facing, near
    return -1, far, _ZERO, far


@njit(**EXACT)
def nearest_shape(scene, ray, origin, direction, far, wanted):
    """(light, distance, |cos θ|) of the nearest shaped light before `far`; light is -1 for none."""
    best, distance, facing, near = -1, far, _ZERO, _ZERO
    for _ in range(_MOST_LAYERS):
        number, at, cosine, near = next_shape(scene, ray, origin, direction, near, distance, wanted)
        if number < 0:
            break
        best, distance, facing = number, at, cosine
    return best, distance, facing


@njit(**SMALL)
def _pick_pdf(scene, scratch, number):
    """Probability with which the place in the PATH record aims at a local light."""
    path = scratch + PATH_AT
    chance = pick_probability(
        load_u64(scene, C.light_nodes),
        load_u64(scene, C.light_shares),
        load_u64(scene, C.lights),
        peek_vector(path, W.point),
        peek_vector(path, W.normal),
        peek_i32(path, W.on_surface) != 0,
        number,
        scratch + LIGHT_AT + LIGHT_WEIGHTS_AT,
    )
    return chance * peek_f32(scratch + LIGHT_AT, Q.local_chance)


@njit(**EXACT)
def pdf_of_shape(scene, scratch, number, direction, distance, facing):
    """Pdf [1/sr] with which the place in the PATH record aims at a point of a local light, met at |cos θ| `facing`."""
    lights, point = load_u64(scene, C.lights), peek_vector(scratch + PATH_AT, W.point)
    shape = shape_pdf(lights, number * LIGHT_WIDTH, point, direction, distance, facing)
    return _pick_pdf(scene, scratch, number) * shape


@njit(**EXACT)
def pdf_of_triangle(scene, scratch, part, primitive, direction, distance):
    """(pdf [1/sr] with which the place in the PATH record aims at this point of a glowing triangle, light group)."""
    begin = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.triangle_lights)
    number = load_i32(load_u64(scene, C.triangle_lights), begin + primitive) if begin >= 0 else -1
    if number < 0:
        return _ZERO, EMISSIVE_GROUP
    lights, row = load_u64(scene, C.lights), number * LIGHT_WIDTH
    facing = abs(dot(direction, load_vector(lights, row + L.normal)))
    pdf = pdf_of_shape(scene, scratch, number, direction, distance, facing)
    return pdf, load_i32(lights, row + L.group)


@njit(**SMALL)
def meets_disk(lights, row, direction):
    """Whether a ray runs into the disk of a distant light."""
    # Compared by the chord: cosines of a disk a quarter of a degree wide differ in their last bits only.
    off = sub(direction, load_vector(lights, row + L.normal))
    span = load_f32(lights, row + L.area)
    return span > _ZERO and dot(off, off) <= f32(2.0) * span


@njit(**SMALL)
def pdf_of_disk(scene, settings, row, near):
    """Pdf [1/sr] with which a place of local chance `near` aims at a direction into the disk of a distant light."""
    lights = load_u64(scene, C.lights)
    chance = load_f32(lights, row + L.chance) * (_ONE - near) * (_ONE - load_f32(settings, S.environment_chance))
    return chance / (TWO_PI * load_f32(lights, row + L.area))
