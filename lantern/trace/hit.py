"""From a ray hit to the point it hit: position, normals, texture coordinates, and where the next ray may start."""

from typing import NamedTuple

from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.kernel.memory import f32_as_i32, i32_as_f32, load_f32, load_i32, load_u32, load_u64
from lantern.kernel.vectors import SMALL, add, cross, dot, neg, normalize, scale, sub
from lantern.surface.lookup import MATERIAL_WIDTH, NORMAL_BINDING, NORMAL_SCALE
from lantern.surface.textures import fetch
from lantern.trace.layout import MESH, PART

_MATRIX, _NORMAL_MATRIX = PART.slot("matrix"), PART.slot("normal_matrix")
_MESH, _MATERIAL, _PART_WIDTH = PART.slot("mesh"), PART.slot("material"), PART.width
_POSITIONS, _INDICES, _NORMALS = MESH.slot("positions"), MESH.slot("indices"), MESH.slot("normals")
_UVS, _TANGENTS = MESH.slot("uvs"), MESH.slot("tangents")
_MESH_WIDTH = 5

# Offsets in units in the last place; below 1/32 m a fixed step, since ulps shrink towards zero.
# Wächter & Binder, "A Fast and Robust Method for Avoiding Self-Intersection", Ray Tracing Gems, 2019, ch. 6.
_NEAR_ZERO, _FIXED_STEP, _ULPS = f32(1.0 / 32.0), f32(1.0 / 65536.0), f32(256.0)


class Hit(NamedTuple):
    """The point a ray hit, in world space, normals on the side the ray came from."""

    position: tuple
    geometric_normal: tuple
    shading_normal: tuple
    entering: bool
    material: int
    u: float
    v: float


@njit(**SMALL)
def _vertex3(base, index):
    i = index * 3
    return load_f32(base, i), load_f32(base, i + 1), load_f32(base, i + 2)


@njit(**SMALL)
def _transform_point(parts, row, p):
    m = row + _MATRIX
    return (
        load_f32(parts, m) * p[0]
        + load_f32(parts, m + 1) * p[1]
        + load_f32(parts, m + 2) * p[2]
        + load_f32(parts, m + 3),
        load_f32(parts, m + 4) * p[0]
        + load_f32(parts, m + 5) * p[1]
        + load_f32(parts, m + 6) * p[2]
        + load_f32(parts, m + 7),
        load_f32(parts, m + 8) * p[0]
        + load_f32(parts, m + 9) * p[1]
        + load_f32(parts, m + 10) * p[2]
        + load_f32(parts, m + 11),
    )


@njit(**SMALL)
def _transform_vector(parts, row, p):
    m = row + _MATRIX
    return (
        load_f32(parts, m) * p[0] + load_f32(parts, m + 1) * p[1] + load_f32(parts, m + 2) * p[2],
        load_f32(parts, m + 4) * p[0] + load_f32(parts, m + 5) * p[1] + load_f32(parts, m + 6) * p[2],
        load_f32(parts, m + 8) * p[0] + load_f32(parts, m + 9) * p[1] + load_f32(parts, m + 10) * p[2],
    )


@njit(**SMALL)
def _transform_normal(parts, row, n):
    m = row + _NORMAL_MATRIX
    return (
        load_f32(parts, m) * n[0] + load_f32(parts, m + 1) * n[1] + load_f32(parts, m + 2) * n[2],
        load_f32(parts, m + 3) * n[0] + load_f32(parts, m + 4) * n[1] + load_f32(parts, m + 5) * n[2],
        load_f32(parts, m + 6) * n[0] + load_f32(parts, m + 7) * n[1] + load_f32(parts, m + 8) * n[2],
    )


@njit(**SMALL)
def _blend(a, b, c, u, v):
    w = f32(1.0) - u - v
    return a[0] * w + b[0] * u + c[0] * v, a[1] * w + b[1] * u + c[1] * v, a[2] * w + b[2] * u + c[2] * v


@njit(**SMALL)
def _bend_towards(normal, geometric, wo):
    """Nearest usable shading normal: it must see wo, or the point would be black from a grazing view."""
    if dot(normal, geometric) <= f32(0.0):
        return geometric
    facing = dot(normal, wo)
    least = f32(0.01)
    if facing >= least:
        return normal
    return normalize(add(normal, scale(wo, least - facing)))


@njit(**SMALL)
def _mapped_normal(hit_normal, tangent, handedness, sample, strength):
    t = normalize(sub(tangent, scale(hit_normal, dot(tangent, hit_normal))))
    b = scale(cross(hit_normal, t), handedness)
    x = (sample[0] * f32(2.0) - f32(1.0)) * strength
    y = (sample[1] * f32(2.0) - f32(1.0)) * strength
    z = sample[2] * f32(2.0) - f32(1.0)
    return normalize(
        (
            t[0] * x + b[0] * y + hit_normal[0] * z,
            t[1] * x + b[1] * y + hit_normal[1] * z,
            t[2] * x + b[2] * y + hit_normal[2] * z,
        )
    )


@njit(**SMALL)
def resolve_hit(parts, meshes, materials, textures, bindings, texels, part, primitive, bu, bv, direction):
    """The `Hit` of barycentrics (bu, bv) on a triangle of a part, for a ray along `direction`."""
    row = part * _PART_WIDTH
    mesh = load_i32(parts, row + _MESH) * _MESH_WIDTH
    material = load_i32(parts, row + _MATERIAL)
    indices = load_u64(meshes, mesh + _INDICES)
    i0, i1, i2 = (
        int(load_u32(indices, primitive * 3)),
        int(load_u32(indices, primitive * 3 + 1)),
        int(load_u32(indices, primitive * 3 + 2)),
    )
    positions = load_u64(meshes, mesh + _POSITIONS)
    p0, p1, p2 = _vertex3(positions, i0), _vertex3(positions, i1), _vertex3(positions, i2)
    edge1, edge2 = sub(p1, p0), sub(p2, p0)
    point = _transform_point(parts, row, _blend(p0, p1, p2, bu, bv))
    geometric = normalize(_transform_normal(parts, row, cross(edge1, edge2)))
    wo = neg(direction)
    entering = dot(geometric, wo) >= f32(0.0)

    normals = load_u64(meshes, mesh + _NORMALS)
    shading = normalize(
        _transform_normal(
            parts, row, _blend(_vertex3(normals, i0), _vertex3(normals, i1), _vertex3(normals, i2), bu, bv)
        )
    )
    u, v = f32(0.0), f32(0.0)
    uvs = load_u64(meshes, mesh + _UVS)
    if uvs != 0:
        w = f32(1.0) - bu - bv
        u0, v0 = load_f32(uvs, i0 * 2), load_f32(uvs, i0 * 2 + 1)
        u1, v1 = load_f32(uvs, i1 * 2), load_f32(uvs, i1 * 2 + 1)
        u2, v2 = load_f32(uvs, i2 * 2), load_f32(uvs, i2 * 2 + 1)
        u, v = u0 * w + u1 * bu + u2 * bv, v0 * w + v1 * bu + v2 * bv
        normal_map = load_i32(materials, material * MATERIAL_WIDTH + NORMAL_BINDING)
        if normal_map >= 0:
            strength = load_f32(materials, material * MATERIAL_WIDTH + NORMAL_SCALE)
            tangents = load_u64(meshes, mesh + _TANGENTS)
            handedness = f32(1.0)
            if tangents != 0:
                t0 = (load_f32(tangents, i0 * 4), load_f32(tangents, i0 * 4 + 1), load_f32(tangents, i0 * 4 + 2))
                t1 = (load_f32(tangents, i1 * 4), load_f32(tangents, i1 * 4 + 1), load_f32(tangents, i1 * 4 + 2))
                t2 = (load_f32(tangents, i2 * 4), load_f32(tangents, i2 * 4 + 1), load_f32(tangents, i2 * 4 + 2))
                tangent = _blend(t0, t1, t2, bu, bv)
                handedness = load_f32(tangents, i0 * 4 + 3)
            else:
                # dP/du of the triangle; v runs downwards in glTF, hence the sign of the bitangent.
                du1, dv1, du2, dv2 = u1 - u0, v1 - v0, u2 - u0, v2 - v0
                determinant = du1 * dv2 - du2 * dv1
                tangent = scale(
                    sub(scale(edge1, dv2), scale(edge2, dv1)), f32(1.0) if determinant >= f32(0.0) else f32(-1.0)
                )
                handedness = f32(-1.0) if determinant >= f32(0.0) else f32(1.0)
                if determinant == f32(0.0):
                    tangent = edge1
            world_tangent = _transform_vector(parts, row, tangent)
            if dot(world_tangent, world_tangent) > f32(0.0):
                texel = fetch(texels, textures, bindings, normal_map, u, v)
                shading = _mapped_normal(shading, world_tangent, handedness, texel, strength)
    if not entering:
        geometric, shading = neg(geometric), neg(shading)
    return Hit(point, geometric, _bend_towards(shading, geometric, wo), entering, material, u, v)


@njit(**SMALL)
def _nudge(p, n):
    if abs(p) < _NEAR_ZERO:
        return p + _FIXED_STEP * n
    # Stepping the integer image of a float moves it by whole ulps, at every scale.
    step = i32(_ULPS * n)
    return i32_as_f32(i32(f32_as_i32(p) + (-step if p < f32(0.0) else step)))


@njit(**SMALL)
def leave_surface(position, normal):
    """A start for the next ray on the side of the geometric `normal`, clear of the surface it leaves."""
    return _nudge(position[0], normal[0]), _nudge(position[1], normal[1]), _nudge(position[2], normal[2])
