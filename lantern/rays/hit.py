"""From a ray hit to the point it hit: position, normals, tangents, texture coordinates, where the next ray starts."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_i64,
    load_u64,
    load_vector,
    peek_f32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, add, cross, dot, frame_around, neg, normalize, scale, sub
from lantern.pattern.images import fetch
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.pattern.tables import NEEDS_VIEW, POINT
from lantern.rays.attributes import corners_of, fill_point, store_view, vertex_uv
from lantern.rays.bump import bumped
from lantern.rays.embree import met_copy
from lantern.rays.layout import HIT, MESH, PART, POINT_IN_HIT, SCENE
from lantern.rays.placement import (
    MESH_WIDTH,
    PART_WIDTH,
    body_of,
    has_poses,
    place_normal,
    place_point,
    place_vector,
    pose_at,
    ray_offset,
    vertex_normal,
    vertex_position,
)
from lantern.rays.rounding import rounded

H, P, A, M, C, T = HIT.slots, PART.slots, MESH.slots, MATERIAL.slots, SCENE.slots, POINT.slots


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
def _reflecting_upwards(normal, geometric, wo):
    """The normal turned until the mirror image of wo leaves the surface, or a rounded edge would be black at its rim.

    Half way between wo and the mirror image lifted to the horizon: the normal that reflects the one into the other.
    """
    mirrored = sub(scale(normal, f32(2.0) * dot(normal, wo)), wo)
    height = dot(mirrored, geometric)
    least = f32(0.05)
    if height >= least:
        return normal
    return normalize(add(wo, normalize(add(mirrored, scale(geometric, least - height)))))


@njit(**SMALL)
def _above(p, corner, normal):
    """How far a point must go up, along a corner's normal, to its tangent plane; a vector, zero when it is above."""
    depth = dot(sub(p, corner), normal)
    return scale(normal, -depth) if depth < f32(0.0) else (f32(0.0), f32(0.0), f32(0.0))


@njit(**SMALL)
def _lift(p0, p1, p2, n0, n1, n2, bu, bv):
    """From a point of a triangle to the rounded surface that its normals stand for, in the part's space.

    Shadow rays start there, or a coarse mesh would show the terminator of its triangles instead of its own.
    Hanika, "Hacking the Shadow Terminator", Ray Tracing Gems II, 2021, ch. 4.
    """
    p = _blend(p0, p1, p2, bu, bv)
    return _blend(_above(p, p0, n0), _above(p, p1, n1), _above(p, p2, n2), bu, bv)


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
def _around_axis(normal):
    """A tangent for a mesh without coordinates: around its own Y axis, as on a lathe; smooth but at the two poles."""
    along = cross((f32(0.0), f32(1.0), f32(0.0)), normal)
    return along if dot(along, along) > f32(1e-12) else (f32(1.0), f32(0.0), f32(0.0))


@njit(**SMALL)
def _tangent(meshes, mesh, uv_set, corners, edges, normal, bu, bv):
    """(tangent in object space, handedness): the mesh's own, else dP/du of the triangle, else around its axis."""
    i0, i1, i2 = corners
    tangents = load_u64(meshes, mesh + A.tangents)
    if tangents != 0:
        t = _blend(load_vector(tangents, i0 * 4), load_vector(tangents, i1 * 4), load_vector(tangents, i2 * 4), bu, bv)
        return t, load_f32(tangents, i0 * 4 + 3)
    if load_i64(meshes, mesh + A.uv_sets) <= uv_set:
        return _around_axis(normal), f32(1.0)
    u0, v0 = vertex_uv(meshes, mesh, uv_set, i0)
    u1, v1 = vertex_uv(meshes, mesh, uv_set, i1)
    u2, v2 = vertex_uv(meshes, mesh, uv_set, i2)
    du1, dv1, du2, dv2 = u1 - u0, v1 - v0, u2 - u0, v2 - v0
    determinant = du1 * dv2 - du2 * dv1
    if determinant == f32(0.0):
        return _around_axis(normal), f32(1.0)
    # v runs downwards in glTF, hence the sign of the bitangent.
    sign = f32(1.0) if determinant > f32(0.0) else f32(-1.0)
    return scale(sub(scale(edges[0], dv2), scale(edges[1], dv1)), sign), -sign


@njit(**EXACT)
def triangle_corners(scene, hit, ray, part, primitive):
    """World positions of the three corners of a triangle, after `resolve_hit` on the same part."""
    parts, meshes = load_u64(scene, C.parts), load_u64(scene, C.meshes)
    row = part * PART_WIDTH
    mesh = load_i32(parts, row + P.mesh) * MESH_WIDTH
    i0, i1, i2 = corners_of(load_u64(meshes, mesh + A.indices), primitive)
    moves, deforms = has_poses(parts, row), load_i64(meshes, mesh + A.steps) > 1
    return (
        place_point(parts, hit, row, moves, vertex_position(meshes, mesh, i0, ray, deforms)),
        place_point(parts, hit, row, moves, vertex_position(meshes, mesh, i1, ray, deforms)),
        place_point(parts, hit, row, moves, vertex_position(meshes, mesh, i2, ray, deforms)),
    )


@njit(**EXACT)
def _map_normals(scene, hit, material, frame):
    """(shading normal, normal of the coat, whether it has its own) that the maps of a material say in a frame."""
    materials, tables, point = load_u64(scene, C.materials), load_u64(scene, C.shading), hit + POINT_IN_HIT
    at = material * MATERIAL_WIDTH
    tangent, bitangent, smooth = frame
    shading, coat, own_coat = smooth, smooth, 0
    binding = load_i32(materials, at + M.normal_binding)
    if binding >= 0:
        texel = fetch(tables, binding, point)
        shading = mapped_normal(smooth, tangent, bitangent, texel, load_f32(materials, at + M.normal_scale))
        own_coat = 1
    binding = load_i32(materials, at + M.coat_normal_binding)
    if binding >= 0:
        texel = fetch(tables, binding, point)
        coat = mapped_normal(smooth, tangent, bitangent, texel, load_f32(materials, at + M.coat_normal_scale))
        own_coat = 1
    return shading, coat, own_coat


@njit(**SMALL)
def _mesh_frame(parts, hit, row, moves, along, handedness, normal):
    """(tangent, bitangent) in the world of an object-space tangent; a mirrored part turns the handedness round."""
    along = place_vector(parts, hit, row, moves, along)
    along = sub(along, scale(normal, dot(along, normal)))
    if dot(along, along) <= f32(1e-20):
        return frame_around(normal)
    tangent = normalize(along)
    if load_i32(parts, row + P.mirrored) != 0:
        handedness = -handedness
    return tangent, scale(cross(normal, tangent), handedness)


@njit(**SMALL)
def _turned_frame(materials, at, tangent, bitangent, shading):
    """The frame turned about the normal by the material's angle, orthogonal again after the normal map."""
    s, c = load_f32(materials, at + M.tangent_sine), load_f32(materials, at + M.tangent_cosine)
    turned = add(scale(tangent, c), scale(bitangent, s))
    turned = sub(turned, scale(shading, dot(turned, shading)))
    if dot(turned, turned) <= f32(1e-12):
        return frame_around(shading)
    tangent = normalize(turned)
    return tangent, cross(shading, tangent)


@njit(**SMALL)
def _store_part(scene, hit, row, part, primitive, material):
    """Write what the part says of the hit."""
    parts = load_u64(scene, C.parts)
    store_i32(hit, H.material, material)
    store_i32(hit, H.part, part)
    store_i32(hit, H.primitive, primitive)
    store_i32(hit, H.links, load_i32(parts, row + P.links))
    store_i32(hit, H.receives_shadow, load_i32(parts, row + P.receives_shadow))
    cluster = load_i32(parts, row + P.first_arrival) + (primitive >> load_i32(parts, row + P.cluster_shift))
    store_f32(hit, H.arrives, load_f32(load_u64(scene, C.arrivals), cluster))


@njit(**SMALL)
def _store_offsets(parts, hit, row, moves, corners, normals, point, bu, bv, is_lifted):
    """Write how far from the surface rays start, and where those start that leave what the normals stand for."""
    p0, p1, p2 = corners
    store_f32(hit, H.ray_offset, ray_offset(parts, hit, row, moves, p0, p1, p2))
    if is_lifted:
        lift = _lift(p0, p1, p2, normals[0], normals[1], normals[2], bu, bv)
        point = add(point, place_vector(parts, hit, row, moves, lift))
    store_vector(hit, H.terminator, point)


@njit(**EXACT)
def resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction):
    """Write the HIT record of barycentrics (bu, bv) on a triangle of a part, for a ray along `direction`."""
    parts, meshes, materials = load_u64(scene, C.parts), load_u64(scene, C.meshes), load_u64(scene, C.materials)
    row = part * PART_WIDTH
    mesh = load_i32(parts, row + P.mesh) * MESH_WIDTH
    i0, i1, i2 = corners_of(load_u64(meshes, mesh + A.indices), primitive)
    moves = has_poses(parts, row)
    if moves:
        pose_at(scene, hit, ray, row)
    store_i32(hit, H.body, body_of(parts, row, part, ray) if moves else part)
    deforms = load_i64(meshes, mesh + A.steps) > 1
    p0 = vertex_position(meshes, mesh, i0, ray, deforms)
    p1 = vertex_position(meshes, mesh, i1, ray, deforms)
    p2 = vertex_position(meshes, mesh, i2, ray, deforms)
    edges = (sub(p1, p0), sub(p2, p0))
    own = _blend(p0, p1, p2, bu, bv)
    position = place_point(parts, hit, row, moves, own)
    geometric = normalize(place_normal(parts, hit, row, moves, cross(edges[0], edges[1])))
    wo = neg(direction)
    if dot(geometric, geometric) == f32(0.0):
        # A triangle without area has no side; it faces whoever meets it.
        geometric = wo
    entering = dot(geometric, wo) >= f32(0.0)
    n0 = vertex_normal(meshes, mesh, i0, ray, deforms)
    n1 = vertex_normal(meshes, mesh, i1, ray, deforms)
    n2 = vertex_normal(meshes, mesh, i2, ray, deforms)
    normal = _blend(n0, n1, n2, bu, bv)
    rounding = load_i32(parts, row + P.rounding)
    if rounding >= 0:
        normal = rounded(load_u64(scene, C.roundings), rounding, own, normal)
    material = load_i32(parts, row + P.material)
    at = material * MATERIAL_WIDTH
    if load_i32(materials, at + M.bump_count) != 0:
        normal = bumped(scene, hit + POINT_IN_HIT, at, (part, primitive, bu, bv), edges, normal)
    smooth = normalize(place_normal(parts, hit, row, moves, normal))
    needs = int(load_i32(materials, at + M.needs))
    if needs != 0:
        fill_point(scene, hit + POINT_IN_HIT, part, primitive, bu, bv, needs)
        if load_i32(parts, row + P.strewn) != 0:
            store_i32(hit + POINT_IN_HIT, T.copy, met_copy(ray) + 1)
    oriented = load_i32(materials, at + M.needs_tangent) != 0
    shading, coat, own_coat = smooth, smooth, 0
    tangent, bitangent = frame_around(smooth)
    if oriented:
        uv_set = load_i32(materials, at + M.tangent_set)
        along, handedness = _tangent(meshes, mesh, uv_set, (i0, i1, i2), edges, normal, bu, bv)
        tangent, bitangent = _mesh_frame(parts, hit, row, moves, along, handedness, smooth)
        shading, coat, own_coat = _map_normals(scene, hit, material, (tangent, bitangent, smooth))
    is_lifted = load_i32(materials, at + M.interior) == 0 and entering
    _store_offsets(parts, hit, row, moves, (p0, p1, p2), (n0, n1, n2), position, bu, bv, is_lifted)
    if needs & NEEDS_VIEW:
        encloses = load_i32(materials, at + M.interior) != 0
        store_view(scene, hit + POINT_IN_HIT, shading if entering else neg(shading), entering or encloses)
    if not entering:
        geometric, shading, coat = neg(geometric), neg(shading), neg(coat)
    shading = _bend_towards(shading, geometric, wo)
    if rounding >= 0:
        shading = _reflecting_upwards(shading, geometric, wo)
    if oriented:
        tangent, bitangent = _turned_frame(materials, at, tangent, bitangent, shading)
    else:
        tangent, bitangent = frame_around(shading)
    store_i32(hit, H.own_coat, own_coat)
    if own_coat != 0:
        store_vector(hit, H.coat, _bend_towards(coat, geometric, wo))
    store_vector(hit, H.position, position)
    store_vector(hit, H.geometric, geometric)
    store_vector(hit, H.shading, shading)
    store_vector(hit, H.tangent, tangent)
    store_vector(hit, H.bitangent, bitangent)
    store_i32(hit, H.entering, 1 if entering else 0)
    _store_part(scene, hit, row, part, primitive, material)


@njit(**SMALL)
def leave_surface(position, normal, distance):
    """A start for the next ray, `distance` [m] from the surface on the side of the geometric `normal`."""
    return add(position, scale(normal, distance))


@njit(**SMALL)
def leave_hit(hit, forwards):
    """A start beside the HIT record's point: on the side that the ray came from, or beyond it when `forwards`."""
    distance = peek_f32(hit, H.ray_offset)
    normal = peek_vector(hit, H.geometric)
    return leave_surface(peek_vector(hit, H.position), normal, -distance if forwards else distance)
