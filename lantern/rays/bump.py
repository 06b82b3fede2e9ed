"""The normal of a surface that stands above its mesh by the height that a material's input says.

Blinn, "Simulation of Wrinkled Surfaces", SIGGRAPH 1978: n - ∂h/∂t t - ∂h/∂b b, the slopes from heights a step apart.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, load_u64, peek_f32
from lantern.kernel.vectors import EXACT, SMALL, dot, frame_around, normalize, scale, sub
from lantern.pattern.program import results_of, run_program
from lantern.rays.attributes import fill_point
from lantern.rays.layout import PART, SCENE
from lantern.surface.material import MATERIAL

C, P, M = SCENE.slots, PART.slots, MATERIAL.slots
_PART_WIDTH = PART.width


@njit(**EXACT)
def _height(scene, point, at, where, shift_u, shift_v):
    """Height [m] at barycentrics beside a place; beyond the triangle its plane goes on."""
    materials, tables = load_u64(scene, C.materials), load_u64(scene, C.shading)
    part, primitive, bu, bv = where
    fill_point(scene, point, part, primitive, bu + shift_u, bv + shift_v, load_i32(materials, at + M.needs))
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
def bumped(scene, point, at, where, edges, normal):
    """The normal in the space of a part's mesh; `at` is the material's row, `where` (part, primitive, u, v)."""
    materials, parts = load_u64(scene, C.materials), load_u64(scene, C.parts)
    a, b, c = dot(edges[0], edges[0]), dot(edges[0], edges[1]), dot(edges[1], edges[1])
    if a * c - b * b <= f32(1e-12) * a * c:
        return normal
    step, normal = load_f32(materials, at + M.bump_step), normalize(normal)
    length = step / load_f32(parts, where[0] * _PART_WIDTH + P.metres)
    tangent, bitangent = frame_around(normal)
    du, dv = _shift(edges, tangent, length)
    along = _height(scene, point, at, where, du, dv)
    du, dv = _shift(edges, bitangent, length)
    across = _height(scene, point, at, where, du, dv)
    here = _height(scene, point, at, where, f32(0.0), f32(0.0))
    inverse = f32(1.0) / step
    lean = sub(normal, scale(tangent, (along - here) * inverse))
    return sub(lean, scale(bitangent, (across - here) * inverse))
