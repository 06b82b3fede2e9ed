"""What happens where a ray meets a part: holes, the surface record, the volumes that the path goes in and out of."""

import math

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
    store_i32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, add, normalize, scale, sub, to_local
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.pattern.program import results_of
from lantern.rays.embree import FAR, intersect, set_time
from lantern.rays.hit import leave_hit, resolve_hit
from lantern.rays.layout import (
    ANY_RAY,
    AROUND_CAMERA_AT,
    CAMERA,
    HIT,
    HIT_AT,
    MEDIUM,
    MEDIUM_AT,
    POINT_IN_HIT,
    RAY_AT,
    SCENE,
    SETTINGS,
)
from lantern.surface.lookup import opacity_at, set_coat_frame, write_surface
from lantern.surface.record import SURFACE
from lantern.transport.medium import around, choose_medium, enter_volume, ior_at, leave_volume

C, S, H, M = SCENE.slots, SETTINGS.slots, HIT.slots, MATERIAL.slots
D, U = MEDIUM.slots, SURFACE.slots
_CAMERA_POSITION = CAMERA.slot("position")
_ZERO, _ONE = f32(0.0), f32(1.0)


@njit(**SMALL)
def opacity_of(scene, hit):
    """Share [0, 1] of rays that the surface in a HIT record stops."""
    material = peek_i32(hit, H.material)
    if load_i32(load_u64(scene, C.materials), material * MATERIAL_WIDTH + M.lets_through) == 0:
        return _ONE
    return opacity_at(load_u64(scene, C.shading), material, hit + POINT_IN_HIT)


@njit(**EXACT)
def cross_boundary(scene, medium, hit):
    """The path goes through the boundary of a volume: take it in or out."""
    materials = load_u64(scene, C.materials)
    material, body = peek_i32(hit, H.material), peek_i32(hit, H.body)
    if load_i32(materials, material * MATERIAL_WIDTH + M.interior) == 0:
        return
    if peek_i32(hit, H.entering) != 0:
        enter_volume(medium, material, body)
    else:
        leave_volume(medium, material, body)
    choose_medium(medium, materials, load_u64(scene, C.settings))


@njit(**EXACT)
def is_hidden(scene, medium, hit):
    """Whether a hit is a boundary inside a volume that counts more, and so is none."""
    if peek_i32(medium, D.count) == 0:
        return False
    materials, material = load_u64(scene, C.materials), peek_i32(hit, H.material)
    if load_i32(materials, material * MATERIAL_WIDTH + M.interior) == 0:
        return False
    return around(medium, materials, material, peek_i32(hit, H.body), _ZERO)[1]


@njit(**EXACT)
def passes(scene, medium, hit, u):
    """Whether a ray goes on through the surface in a HIT record as if it were not there; crosses what it leaves.

    Boundaries hidden in a volume that counts more are none. A hole, found by chance `u` where a surface is half opaque,
    does not lead into a volume, but it leads out of one.
    """
    if is_hidden(scene, medium, hit):
        cross_boundary(scene, medium, hit)
        return True
    if load_i32(load_u64(scene, C.settings), S.opacity) == 0 or u < opacity_of(scene, hit):
        return False
    if peek_i32(hit, H.entering) == 0:
        cross_boundary(scene, medium, hit)
    return True


@njit(**SMALL)
def _turn_tangent(hit, degrees):
    """Turn the HIT record's tangents about its normal."""
    angle = degrees * f32(math.pi / 180.0)
    s, c = math.sin(angle), math.cos(angle)
    tangent, bitangent = peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent)
    store_vector(hit, H.tangent, add(scale(tangent, c), scale(bitangent, s)))
    store_vector(hit, H.bitangent, sub(scale(bitangent, c), scale(tangent, s)))


@njit(**EXACT)
def fill_surface(scene, surface, hit, medium, wavelength, least_alpha):
    """Fill the parameters of the surface record for a hit."""
    materials = load_u64(scene, C.materials)
    material = peek_i32(hit, H.material)
    entering = peek_i32(hit, H.entering) != 0
    eta = _ONE
    if load_f32(materials, material * MATERIAL_WIDTH + M.transmission) > _ZERO:
        outside, _ = around(medium, materials, material, peek_i32(hit, H.body), wavelength)
        inside = ior_at(materials, material, wavelength)
        # Both faces of a thin wall are met from outside.
        from_outside = entering or load_i32(materials, material * MATERIAL_WIDTH + M.thin_walled) != 0
        eta = inside / outside if from_outside else outside / inside
        if abs(eta - _ONE) < f32(1e-3):
            # At exactly 1 a boundary bends nothing and its half vector is undefined.
            eta = f32(1.001) if from_outside else f32(1.0 / 1.001)
    write_surface(surface, load_u64(scene, C.shading), material, hit + POINT_IN_HIT, entering, eta, least_alpha)
    if load_i32(materials, material * MATERIAL_WIDTH + M.turns_tangent) != 0:
        _turn_tangent(hit, peek_f32(results_of(hit + POINT_IN_HIT), M.tangent_turn))
    if peek_i32(hit, H.own_coat) != 0 and peek_f32(surface, U.coat) > _ZERO:
        t, b, n = peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent), peek_vector(hit, H.shading)
        z = normalize(to_local(peek_vector(hit, H.coat), t, b, n))
        x = normalize((_ONE - z[0] * z[0], -z[0] * z[1], -z[0] * z[2]))
        y = (z[1] * x[2] - z[2] * x[1], z[2] * x[0] - z[0] * x[2], z[0] * x[1] - z[1] * x[0])
        set_coat_frame(surface, x, y, z)


@njit(**EXACT)
def find_volumes(scene, tree, scratch):
    """Write the volumes around the camera: what a ray from there leaves without having entered."""
    camera, settings = load_u64(scene, C.camera), load_u64(scene, C.settings)
    materials = load_u64(scene, C.materials)
    medium, hit, ray = scratch + AROUND_CAMERA_AT, scratch + HIT_AT, scratch + RAY_AT
    store_i32(medium, D.count, 0)
    set_time(ray, _ZERO)
    origin = load_vector(camera, _CAMERA_POSITION)
    # Any direction does; made things seldom have edges along this one.
    direction = normalize((f32(0.4321), f32(0.7654), f32(0.4770)))
    store_i32(scratch + MEDIUM_AT, D.count, 0)
    for _ in range(64):
        part, primitive, bu, bv, _d = intersect(tree, ray, origin, direction, _ZERO, FAR, ANY_RAY)
        if part < 0:
            break
        resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
        material, body = peek_i32(hit, H.material), peek_i32(hit, H.body)
        if load_i32(materials, material * MATERIAL_WIDTH + M.interior) != 0:
            inside = scratch + MEDIUM_AT
            if peek_i32(hit, H.entering) != 0:
                enter_volume(inside, material, body)
            else:
                count = peek_i32(inside, D.count)
                leave_volume(inside, material, body)
                if peek_i32(inside, D.count) == count:
                    enter_volume(medium, material, body)
        origin = leave_hit(hit, True)
    choose_medium(medium, materials, settings)
