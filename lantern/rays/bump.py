"""The normal of a surface that stands above its mesh by the height that a material's input says.

Blinn, "Simulation of Wrinkled Surfaces", SIGGRAPH 1978: n - ∂h/∂t t - ∂h/∂b b, the slopes from heights a step apart.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, load_i64, load_u64, peek_f32
from lantern.kernel.vectors import EXACT, SMALL, cross, dot, frame_around, normalize, scale, sub
from lantern.pattern.material import MATERIAL
from lantern.pattern.program import results_of, run_program
from lantern.rays.attributes import corners_of, fill_point, vertex_uv
from lantern.rays.layout import MESH, PART, SCENE

C, P, A, M = SCENE.slots, PART.slots, MESH.slots, MATERIAL.slots
_PART_WIDTH, _MESH_WIDTH = PART.width, MESH.width


@njit(**EXACT)
def _height(scene, point, at, where, shift_u, shift_v):
    """Height [m] at barycentrics beside a place; beyond the triangle its plane goes on."""
    materials, tables = load_u64(scene, C.materials), load_u64(scene, C.shading)
    part, primitive, bu, bv = where
    fill_point(scene, point, part, primitive, bu + shift_u, bv + shift_v, int(load_i32(materials, at + M.needs)))
    run_program(tables, load_i32(materials, at + M.bump_first), load_i32(materials, at + M.bump_count), point)
    return peek_f32(results_of(point), M.bump)


@njit(**SMALL)
def _shift(edges, along, length):
    """Barycentrics that lead so far along a direction, as far as it lies in the triangle's plane."""
    a, b, c = dot(edges[0], edges[0]), dot(edges[0], edges[1]), dot(edges[1], edges[1])
    u, v = dot(along, edges[0]), dot(along, edges[1])
    inverse = length / (a * c - b * b)
    return (c * u - b * v) * inverse, (a * v - b * u) * inverse


@njit(**EXACT)
def _metres_a_coordinate(scene, part, primitive, uv_set, edges):
    """Units of the mesh that a unit of texture coordinates is long on a triangle, by its areas; 0 where it has none."""
    meshes = load_u64(scene, C.meshes)
    mesh = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.mesh) * _MESH_WIDTH
    if uv_set >= load_i64(meshes, mesh + A.uv_sets):
        return f32(0.0)
    i0, i1, i2 = corners_of(load_u64(meshes, mesh + A.indices), primitive)
    u0, v0 = vertex_uv(meshes, mesh, uv_set, i0)
    u1, v1 = vertex_uv(meshes, mesh, uv_set, i1)
    u2, v2 = vertex_uv(meshes, mesh, uv_set, i2)
    flat = abs((u1 - u0) * (v2 - v0) - (u2 - u0) * (v1 - v0))
    across = cross(edges[0], edges[1])
    return (dot(across, across) ** f32(0.5) / flat) ** f32(0.5) if flat > f32(0.0) else f32(0.0)


@njit(**EXACT)
def bumped(scene, point, at, where, edges, normal):
    """The normal in the space of a part's mesh; `at` is the material's row, `where` (part, primitive, u, v)."""
    materials, parts = load_u64(scene, C.materials), load_u64(scene, C.parts)
    a, b, c = dot(edges[0], edges[0]), dot(edges[0], edges[1]), dot(edges[1], edges[1])
    if a * c - b * b <= f32(1e-12) * a * c:
        return normal
    step, metres = load_f32(materials, at + M.bump_step), load_f32(parts, where[0] * _PART_WIDTH + P.metres)
    uv_set = load_i32(materials, at + M.bump_set)
    if uv_set >= 0:
        step *= _metres_a_coordinate(scene, where[0], where[1], uv_set, edges) * metres
        if step == f32(0.0):
            return normal
    normal, length = normalize(normal), step / metres
    tangent, bitangent = frame_around(normal)
    du, dv = _shift(edges, tangent, length)
    along = _height(scene, point, at, where, du, dv)
    du, dv = _shift(edges, bitangent, length)
    across = _height(scene, point, at, where, du, dv)
    here = _height(scene, point, at, where, f32(0.0), f32(0.0))
    inverse = f32(1.0) / step
    lean = sub(normal, scale(tangent, (along - here) * inverse))
    return sub(lean, scale(bitangent, (across - here) * inverse))
