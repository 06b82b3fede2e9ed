"""From a ray hit to the point it hit: position, normals, tangents, texture coordinates, where the next ray starts."""

from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.kernel.memory import (
    f32_as_i32,
    i32_as_f32,
    load_f32,
    load_i32,
    load_u32,
    load_u64,
    load_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, add, cross, dot, frame_around, neg, normalize, scale, sub
from lantern.surface.lookup import MATERIAL_WIDTH
from lantern.surface.material import MATERIAL
from lantern.surface.textures import fetch
from lantern.trace.layout import HIT, MESH, PART, SCENE

H, P, A, M, C = HIT.slots, PART.slots, MESH.slots, MATERIAL.slots, SCENE.slots
_PART_WIDTH, _MESH_WIDTH = PART.width, MESH.width

# Offsets in units in the last place; below 1/32 m a fixed step, since ulps shrink towards zero.
# Wächter & Binder, "A Fast and Robust Method for Avoiding Self-Intersection", Ray Tracing Gems, 2019, ch. 6.
_NEAR_ZERO, _FIXED_STEP, _ULPS = f32(1.0 / 32.0), f32(1.0 / 65536.0), f32(256.0)


@njit(**SMALL)
def transform_point(parts, row, p):
    m = row + P.matrix
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
    m = row + P.matrix
    return (
        load_f32(parts, m) * p[0] + load_f32(parts, m + 1) * p[1] + load_f32(parts, m + 2) * p[2],
        load_f32(parts, m + 4) * p[0] + load_f32(parts, m + 5) * p[1] + load_f32(parts, m + 6) * p[2],
        load_f32(parts, m + 8) * p[0] + load_f32(parts, m + 9) * p[1] + load_f32(parts, m + 10) * p[2],
    )


@njit(**SMALL)
def _transform_normal(parts, row, n):
    m = row + P.normal_matrix
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
def _corners(indices, primitive):
    """The three vertex numbers of a triangle."""
    return (
        int(load_u32(indices, primitive * 3)),
        int(load_u32(indices, primitive * 3 + 1)),
        int(load_u32(indices, primitive * 3 + 2)),
    )


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
def mapped_normal(normal, tangent, bitangent, texel, strength):
    """The normal that a tangent-space texel says (glTF 2.0, section 3.9.3); the frame need not be orthogonal."""
    x = (texel[0] * f32(2.0) - f32(1.0)) * strength
    y = (texel[1] * f32(2.0) - f32(1.0)) * strength
    z = texel[2] * f32(2.0) - f32(1.0)
    return normalize(
        (
            tangent[0] * x + bitangent[0] * y + normal[0] * z,
            tangent[1] * x + bitangent[1] * y + normal[1] * z,
            tangent[2] * x + bitangent[2] * y + normal[2] * z,
        )
    )


@njit(**SMALL)
def _tangent(meshes, mesh, uvs, corners, edge1, edge2, bu, bv):
    """(tangent in object space, handedness): the mesh's own, else dP/du of the triangle."""
    i0, i1, i2 = corners
    tangents = load_u64(meshes, mesh + A.tangents)
    if tangents != 0:
        t = _blend(load_vector(tangents, i0 * 4), load_vector(tangents, i1 * 4), load_vector(tangents, i2 * 4), bu, bv)
        return t, load_f32(tangents, i0 * 4 + 3)
    if uvs == 0:
        return edge1, f32(1.0)
    u0, v0 = load_f32(uvs, i0 * 2), load_f32(uvs, i0 * 2 + 1)
    du1, dv1 = load_f32(uvs, i1 * 2) - u0, load_f32(uvs, i1 * 2 + 1) - v0
    du2, dv2 = load_f32(uvs, i2 * 2) - u0, load_f32(uvs, i2 * 2 + 1) - v0
    determinant = du1 * dv2 - du2 * dv1
    if determinant == f32(0.0):
        return edge1, f32(1.0)
    # v runs downwards in glTF, hence the sign of the bitangent.
    sign = f32(1.0) if determinant > f32(0.0) else f32(-1.0)
    return scale(sub(scale(edge1, dv2), scale(edge2, dv1)), sign), -sign


@njit(**EXACT)
def texture_coordinates(scene, part, primitive, bu, bv):
    """(u, v) of barycentrics on a triangle of a part; (0, 0) without UVs."""
    meshes = load_u64(scene, C.meshes)
    mesh = load_i32(load_u64(scene, C.parts), part * _PART_WIDTH + P.mesh) * _MESH_WIDTH
    uvs = load_u64(meshes, mesh + A.uvs)
    if uvs == 0:
        return f32(0.0), f32(0.0)
    i0, i1, i2 = _corners(load_u64(meshes, mesh + A.indices), primitive)
    w = f32(1.0) - bu - bv
    return (
        load_f32(uvs, i0 * 2) * w + load_f32(uvs, i1 * 2) * bu + load_f32(uvs, i2 * 2) * bv,
        load_f32(uvs, i0 * 2 + 1) * w + load_f32(uvs, i1 * 2 + 1) * bu + load_f32(uvs, i2 * 2 + 1) * bv,
    )


@njit(**EXACT)
def resolve_hit(scene, hit, part, primitive, bu, bv, direction):
    """Write the HIT record of barycentrics (bu, bv) on a triangle of a part, for a ray along `direction`."""
    parts, meshes, materials = load_u64(scene, C.parts), load_u64(scene, C.meshes), load_u64(scene, C.materials)
    row = part * _PART_WIDTH
    mesh = load_i32(parts, row + P.mesh) * _MESH_WIDTH
    material = load_i32(parts, row + P.material)
    corners = _corners(load_u64(meshes, mesh + A.indices), primitive)
    i0, i1, i2 = corners
    positions = load_u64(meshes, mesh + A.positions)
    p0, p1, p2 = load_vector(positions, i0 * 3), load_vector(positions, i1 * 3), load_vector(positions, i2 * 3)
    edge1, edge2 = sub(p1, p0), sub(p2, p0)
    point = transform_point(parts, row, _blend(p0, p1, p2, bu, bv))
    geometric = normalize(_transform_normal(parts, row, cross(edge1, edge2)))
    wo = neg(direction)
    if dot(geometric, geometric) == f32(0.0):
        # A triangle without area has no side; it faces whoever meets it.
        geometric = wo
    entering = dot(geometric, wo) >= f32(0.0)

    normals = load_u64(meshes, mesh + A.normals)
    n = _blend(load_vector(normals, i0 * 3), load_vector(normals, i1 * 3), load_vector(normals, i2 * 3), bu, bv)
    shading = normalize(_transform_normal(parts, row, n))
    u, v = f32(0.0), f32(0.0)
    uvs = load_u64(meshes, mesh + A.uvs)
    if uvs != 0:
        w = f32(1.0) - bu - bv
        u = load_f32(uvs, i0 * 2) * w + load_f32(uvs, i1 * 2) * bu + load_f32(uvs, i2 * 2) * bv
        v = load_f32(uvs, i0 * 2 + 1) * w + load_f32(uvs, i1 * 2 + 1) * bu + load_f32(uvs, i2 * 2 + 1) * bv
    at = material * MATERIAL_WIDTH
    oriented = load_i32(materials, at + M.needs_tangent) != 0
    tangent, bitangent = frame_around(shading)
    coat, own_coat = shading, 0
    if oriented:
        along, handedness = _tangent(meshes, mesh, uvs, corners, edge1, edge2, bu, bv)
        along = _transform_vector(parts, row, along)
        along = sub(along, scale(shading, dot(along, shading)))
        if dot(along, along) > f32(1e-20):
            tangent = normalize(along)
            bitangent = scale(cross(shading, tangent), handedness)
        if uvs != 0:
            texels, textures, bindings = (
                load_u64(scene, C.texels),
                load_u64(scene, C.textures),
                load_u64(scene, C.bindings),
            )
            smooth = shading
            binding = load_i32(materials, at + M.normal_binding)
            if binding >= 0:
                texel = fetch(texels, textures, bindings, binding, u, v)
                shading = mapped_normal(smooth, tangent, bitangent, texel, load_f32(materials, at + M.normal_scale))
                own_coat = 1
            binding = load_i32(materials, at + M.coat_normal_binding)
            if binding >= 0:
                texel = fetch(texels, textures, bindings, binding, u, v)
                coat = mapped_normal(smooth, tangent, bitangent, texel, f32(1.0))
                own_coat = 1
    if not entering:
        geometric, shading, coat = neg(geometric), neg(shading), neg(coat)
    shading = _bend_towards(shading, geometric, wo)
    store_i32(hit, H.own_coat, own_coat)
    if own_coat != 0:
        store_vector(hit, H.coat, _bend_towards(coat, geometric, wo))
    if oriented:
        # Turned about the normal by the material's angle, orthogonal again after the normal map.
        s, c = load_f32(materials, at + M.tangent_sine), load_f32(materials, at + M.tangent_cosine)
        turned = add(scale(tangent, c), scale(bitangent, s))
        turned = sub(turned, scale(shading, dot(turned, shading)))
        if dot(turned, turned) > f32(1e-12):
            tangent = normalize(turned)
            bitangent = cross(shading, tangent)
        else:
            tangent, bitangent = frame_around(shading)
    else:
        tangent, bitangent = frame_around(shading)
    store_vector(hit, H.position, point)
    store_vector(hit, H.geometric, geometric)
    store_vector(hit, H.shading, shading)
    store_vector(hit, H.tangent, tangent)
    store_vector(hit, H.bitangent, bitangent)
    store_f32(hit, H.u, u)
    store_f32(hit, H.v, v)
    store_i32(hit, H.entering, 1 if entering else 0)
    store_i32(hit, H.material, material)
    store_i32(hit, H.part, part)
    store_i32(hit, H.primitive, primitive)
    store_i32(hit, H.links, load_i32(parts, row + P.links))
    store_i32(hit, H.receives_shadow, load_i32(parts, row + P.receives_shadow))


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
