"""Where a part stands at the time of a ray: transforms of points, vectors and normals, and vertices that move.

A part at rest is read from the PART table; one that moves, or of which there are copies, has its matrix written into
the HIT record first, interpolated as the ray library does it: linearly between the two nearest poses.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, load_i64, load_u64, load_vector, peek_f32, store_f32
from lantern.kernel.vectors import EXACT, SMALL, lerp
from lantern.rays.embree import VERTEX_FLOATS, met_copy, ray_time
from lantern.rays.layout import HIT, MESH, PART, SCENE

H, P, A, C = HIT.slots, PART.slots, MESH.slots, SCENE.slots
PART_WIDTH, MESH_WIDTH = PART.width, MESH.width
COPIES = 1 << 30
"""Beyond the numbers of all parts."""
ROUNDING = f32(8.0 * 2.0**-23)
"""Offset of a ray from a hit, relative to the largest terms that it is made of: measured to hold from 1 mm to 1 km."""


@njit(**SMALL)
def between(time, steps):
    """(number of the step before `time`, share of the way to the next) of evenly spaced steps over [0, 1]."""
    place = time * f32(steps - 1)
    i = min(int(place), steps - 2)
    return i, place - f32(i)


@njit(**SMALL)
def has_poses(parts, row):
    """Whether where a part stands is to be asked of its poses, with `pose_at`: it moves, or there are copies."""
    return load_i32(parts, row + P.first_pose) >= 0


@njit(**SMALL)
def body_of(parts, row, part, ray):
    """A number of a part, or of the copy of it that the ray met, that no other part or copy has."""
    if load_i32(parts, row + P.strewn) == 0:
        return part
    return COPIES + load_i32(parts, row + P.first_pose) + met_copy(ray) * load_i32(parts, row + P.poses)


@njit(**EXACT)
def pose_at(scene, hit, ray, row):
    """Write matrix and normal matrix of a part at the ray's time, or of the copy it met, into the HIT record."""
    parts, poses = load_u64(scene, C.parts), load_u64(scene, C.poses)
    first, steps = load_i32(parts, row + P.first_pose), load_i32(parts, row + P.poses)
    if load_i32(parts, row + P.strewn) != 0:
        first += met_copy(ray) * steps
    i, t, later = 0, f32(0.0), 0
    if steps > 1:
        i, t = between(ray_time(ray), steps)
        later = 12
    first = (first + i) * 12
    for k in range(12):
        a = load_f32(poses, first + k)
        store_f32(hit, H.matrix + k, a + (load_f32(poses, first + later + k) - a) * t)
    m = H.matrix
    # Cofactors of the linear part; the sign of a mirrored part's determinant is that of its pose at rest.
    sign = f32(-1.0) if load_i32(parts, row + P.mirrored) != 0 else f32(1.0)
    for k in range(3):
        a, b = (k + 1) % 3 * 4, (k + 2) % 3 * 4
        for j in range(3):
            c, d = (j + 1) % 3, (j + 2) % 3
            value = peek_f32(hit, m + a + c) * peek_f32(hit, m + b + d)
            value -= peek_f32(hit, m + a + d) * peek_f32(hit, m + b + c)
            store_f32(hit, H.normal_matrix + 3 * k + j, value * sign)


@njit(**SMALL)
def _turned(parts, hit, in_part, in_hit, stride, moves, v):
    """A 3x3 matrix, its rows `stride` apart, times a vector; it stands in the PART row, of a moving part in the HIT."""
    if moves:
        m, n = in_hit + stride, in_hit + 2 * stride
        return (
            peek_f32(hit, in_hit) * v[0] + peek_f32(hit, in_hit + 1) * v[1] + peek_f32(hit, in_hit + 2) * v[2],
            peek_f32(hit, m) * v[0] + peek_f32(hit, m + 1) * v[1] + peek_f32(hit, m + 2) * v[2],
            peek_f32(hit, n) * v[0] + peek_f32(hit, n + 1) * v[1] + peek_f32(hit, n + 2) * v[2],
        )
    m, n = in_part + stride, in_part + 2 * stride
    return (
        load_f32(parts, in_part) * v[0] + load_f32(parts, in_part + 1) * v[1] + load_f32(parts, in_part + 2) * v[2],
        load_f32(parts, m) * v[0] + load_f32(parts, m + 1) * v[1] + load_f32(parts, m + 2) * v[2],
        load_f32(parts, n) * v[0] + load_f32(parts, n + 1) * v[1] + load_f32(parts, n + 2) * v[2],
    )


@njit(**SMALL)
def place_point(parts, hit, row, moves, p):
    """A point of a part in the world."""
    x, y, z = place_vector(parts, hit, row, moves, p)
    if moves:
        m = H.matrix
        return x + peek_f32(hit, m + 3), y + peek_f32(hit, m + 7), z + peek_f32(hit, m + 11)
    m = row + P.matrix
    return x + load_f32(parts, m + 3), y + load_f32(parts, m + 7), z + load_f32(parts, m + 11)


@njit(**SMALL)
def place_vector(parts, hit, row, moves, v):
    """A vector of a part in the world."""
    return _turned(parts, hit, row + P.matrix, H.matrix, 4, moves, v)


@njit(**SMALL)
def place_normal(parts, hit, row, moves, n):
    """The direction of a normal in the world, not normalised."""
    return _turned(parts, hit, row + P.normal_matrix, H.normal_matrix, 3, moves, n)


@njit(**SMALL)
def vertex_row(meshes, mesh, number):
    """(address of the vertices, slot where a vertex begins)."""
    return load_u64(meshes, mesh + A.vertices), number * VERTEX_FLOATS


@njit(**EXACT)
def _deformed(meshes, mesh, number, time, offset):
    steps, count = load_i64(meshes, mesh + A.steps), load_i64(meshes, mesh + A.count)
    i, t = between(time, steps)
    vertices = load_u64(meshes, mesh + A.vertices)
    at = (i * count + number) * VERTEX_FLOATS + offset
    return lerp(load_vector(vertices, at), load_vector(vertices, at + count * VERTEX_FLOATS), t)


@njit(**SMALL)
def vertex_position(meshes, mesh, number, ray, deforms):
    """Position of a vertex in its part's space at the ray's time."""
    if deforms:
        return _deformed(meshes, mesh, number, ray_time(ray), 0)
    vertices, at = vertex_row(meshes, mesh, number)
    return load_vector(vertices, at)


@njit(**SMALL)
def vertex_normal(meshes, mesh, number, ray, deforms):
    """Normal of a vertex in its part's space at the ray's time."""
    if deforms:
        return _deformed(meshes, mesh, number, ray_time(ray), 4)
    vertices, at = vertex_row(meshes, mesh, number)
    return load_vector(vertices, at + 4)


@njit(**SMALL)
def ray_offset(parts, hit, row, moves, p0, p1, p2):
    """How far [m] a ray must start from a triangle not to meet it again by rounding.

    A hit is known to some units in the last place of the largest terms it is made of: corner times matrix, plus shift.
    """
    e = (
        max(abs(p0[0]), max(abs(p1[0]), abs(p2[0]))),
        max(abs(p0[1]), max(abs(p1[1]), abs(p2[1]))),
        max(abs(p0[2]), max(abs(p1[2]), abs(p2[2]))),
    )
    largest = f32(0.0)
    for k in range(3):
        m = 4 * k
        if moves:
            m += H.matrix
            a, b, c, t = peek_f32(hit, m), peek_f32(hit, m + 1), peek_f32(hit, m + 2), peek_f32(hit, m + 3)
        else:
            m += row + P.matrix
            a, b, c, t = load_f32(parts, m), load_f32(parts, m + 1), load_f32(parts, m + 2), load_f32(parts, m + 3)
        largest = max(largest, abs(a) * e[0] + abs(b) * e[1] + abs(c) * e[2] + abs(t))
    return largest * ROUNDING
