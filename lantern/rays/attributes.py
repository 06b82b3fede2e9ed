"""What a mesh says at a point of a triangle besides its shape: texture coordinates of every set, colours of vertices.

In: barycentrics on a triangle of a part, and which of it is needed. Out: a POINT. Called where a ray hits something
and where light is taken from a glowing triangle.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_i64,
    load_u32,
    load_u64,
    load_vector,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, dot, normalize, scale
from lantern.pattern.tables import MOST_UV_SETS, NEEDS_COLOR, NEEDS_EDGES, NEEDS_PLACE, NEEDS_VIEW, POINT
from lantern.rays.embree import NORMAL_AT, VERTEX_FLOATS
from lantern.rays.layout import CAMERA, MESH, PART, SCENE
from lantern.rays.rounding import FAR, ROUNDING, ROUNDING_WIDTH, edge_distances

C, P, A, T, R, E = SCENE.slots, PART.slots, MESH.slots, POINT.slots, ROUNDING.slots, CAMERA.slots
_PART_WIDTH, _MESH_WIDTH = PART.width, MESH.width
_ONE = f32(1.0)


@njit(**SMALL)
def corners_of(indices, primitive):
    """The three vertex numbers of a triangle."""
    return (
        int(load_u32(indices, primitive * 3)),
        int(load_u32(indices, primitive * 3 + 1)),
        int(load_u32(indices, primitive * 3 + 2)),
    )


@njit(**SMALL)
def vertex_uv(meshes, mesh, uv_set, number):
    """Texture coordinates (u, v) of a vertex in a set that the mesh has."""
    at = (uv_set * load_i64(meshes, mesh + A.count) + number) * 2
    uvs = load_u64(meshes, mesh + A.uvs)
    return load_f32(uvs, at), load_f32(uvs, at + 1)


@njit(**SMALL)
def _blended(base, stride, offset, corners, bu, bv):
    a = load_f32(base, corners[0] * stride + offset)
    b, c = load_f32(base, corners[1] * stride + offset), load_f32(base, corners[2] * stride + offset)
    return a * (_ONE - bu - bv) + b * bu + c * bv


@njit(**EXACT)
def _fill_place(scene, point, part, mesh, corners, bu, bv):
    """Where a place is on the part and in the scene at rest, its normals there, and the part's chance."""
    parts, meshes, row = load_u64(scene, C.parts), load_u64(scene, C.meshes), part * _PART_WIDTH
    vertices, metres = load_u64(meshes, mesh + A.vertices), load_f32(parts, row + P.metres)
    own = (
        _blended(vertices, VERTEX_FLOATS, 0, corners, bu, bv),
        _blended(vertices, VERTEX_FLOATS, 1, corners, bu, bv),
        _blended(vertices, VERTEX_FLOATS, 2, corners, bu, bv),
    )
    normal = (
        _blended(vertices, VERTEX_FLOATS, NORMAL_AT, corners, bu, bv),
        _blended(vertices, VERTEX_FLOATS, NORMAL_AT + 1, corners, bu, bv),
        _blended(vertices, VERTEX_FLOATS, NORMAL_AT + 2, corners, bu, bv),
    )
    m, n = row + P.matrix, row + P.normal_matrix
    store_vector(point, T.own, scale(own, metres))
    store_vector(point, T.own_normal, normalize(normal))
    for k in range(3):
        place = load_vector(parts, m + 4 * k)
        store_f32(point, T.rest + k, dot(place, own) + load_f32(parts, m + 4 * k + 3))
    store_vector(
        point,
        T.rest_normal,
        normalize(
            (
                dot(load_vector(parts, n), normal),
                dot(load_vector(parts, n + 3), normal),
                dot(load_vector(parts, n + 6), normal),
            )
        ),
    )
    store_i32(point, T.chance, load_i32(parts, row + P.chance))
    store_i32(point, T.copy, 0)


@njit(**EXACT)
def _fill_edges(scene, point, part, mesh, corners, bu, bv):
    """How far the edges are, and how the mesh bends."""
    parts, meshes, row = load_u64(scene, C.parts), load_u64(scene, C.meshes), part * _PART_WIDTH
    number, metres = load_i32(parts, row + P.edges), load_f32(parts, row + P.metres)
    outwards, inwards, bend = FAR, FAR, f32(0.0)
    if number >= 0:
        vertices, rows = load_u64(meshes, mesh + A.vertices), load_u64(scene, C.roundings)
        own = (
            _blended(vertices, VERTEX_FLOATS, 0, corners, bu, bv),
            _blended(vertices, VERTEX_FLOATS, 1, corners, bu, bv),
            _blended(vertices, VERTEX_FLOATS, 2, corners, bu, bv),
        )
        outwards, inwards = edge_distances(rows, number, own)
        bend = _blended(load_u64(rows, number * ROUNDING_WIDTH + R.bends), 1, 0, corners, bu, bv) / metres
    store_f32(point, T.edge, outwards * metres)
    store_f32(point, T.crevice, inwards * metres)
    store_f32(point, T.curvature, bend)


@njit(**SMALL)
def store_view(scene, point, normal, is_front):
    """Write how the camera sees a normal of the scene, and on which side the place is met."""
    camera = load_u64(scene, C.camera)
    store_f32(point, T.eye, dot(load_vector(camera, E.right), normal))
    store_f32(point, T.eye + 1, dot(load_vector(camera, E.up), normal))
    store_f32(point, T.eye + 2, -dot(load_vector(camera, E.forward), normal))
    store_i32(point, T.front, 1 if is_front else 0)


@njit(**EXACT)
def fill_point(scene, point, part, primitive, bu, bv, needs):
    """Write what `needs` asks for; a set that the mesh lacks is (0, 0), and colours that it lacks are white."""
    meshes = load_u64(scene, C.meshes)
    mesh = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.mesh) * _MESH_WIDTH
    corners = corners_of(load_u64(meshes, mesh + A.indices), primitive)
    sets, count = load_i64(meshes, mesh + A.uv_sets), load_i64(meshes, mesh + A.count)
    for uv_set in range(MOST_UV_SETS):
        if needs & (1 << uv_set):
            u, v = f32(0.0), f32(0.0)
            if uv_set < sets:
                uvs, first = load_u64(meshes, mesh + A.uvs), uv_set * count * 2
                u = _blended(uvs, 2, first, corners, bu, bv)
                v = _blended(uvs, 2, first + 1, corners, bu, bv)
            store_f32(point, T.uv + 2 * uv_set, u)
            store_f32(point, T.uv + 2 * uv_set + 1, v)
    if needs & NEEDS_VIEW:
        _fill_place(scene, point, part, mesh, corners, bu, bv)
        store_view(scene, point, peek_vector(point, T.rest_normal), True)
    elif needs & NEEDS_PLACE:
        _fill_place(scene, point, part, mesh, corners, bu, bv)
    if needs & NEEDS_EDGES:
        _fill_edges(scene, point, part, mesh, corners, bu, bv)
    if needs & NEEDS_COLOR:
        colors = load_u64(meshes, mesh + A.colors)
        for k in range(4):
            store_f32(point, T.color + k, _blended(colors, 4, k, corners, bu, bv) if colors != 0 else _ONE)
