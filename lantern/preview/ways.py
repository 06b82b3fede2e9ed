"""What the data ways of looking make of the first surface: normals, depth, coordinates, occlusion, the mesh's lines.

In: the surface in the HIT record. Out: display values, linear, not light. Called by `preview.looking`.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.film.counting import count
from lantern.kernel.memory import load_f32, load_i32, load_i64, load_u64, load_vector, peek_f32, peek_vector
from lantern.kernel.points import draw
from lantern.kernel.vectors import (
    EXACT,
    SMALL,
    dot,
    frame_around,
    lerp,
    luminance,
    max_component,
    mul,
    scale,
    sub,
    to_world,
)
from lantern.pattern.tables import POINT
from lantern.preview.reflectance import reflected
from lantern.rays.attributes import fill_point
from lantern.rays.embree import is_occluded
from lantern.rays.hit import leave_surface, triangle_corners
from lantern.rays.layout import (
    CAMERA,
    CHECKER,
    DEPTH,
    HIT,
    HIT_AT,
    MEDIUM_AT,
    MESH,
    NORMALS,
    OCCLUSION,
    PART,
    PARTS,
    POINT_IN_HIT,
    RAY_AT,
    REFLECTANCE,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
    SHADOW_RAYS,
    SPHERE,
    SURFACE_AT,
    WIRES,
)
from lantern.rays.placement import MESH_WIDTH, PART_WIDTH
from lantern.rays.primary import AFTER_CAMERA
from lantern.surface.diffuse import sample_cosine
from lantern.surface.record import SURFACE
from lantern.transport.boundary import fill_surface
from lantern.transport.ground import ground_distance, ground_ray_offset

C, S, K, H, U = SCENE.slots, SETTINGS.slots, CAMERA.slots, HIT.slots, SURFACE.slots
A, P, T = MESH.slots, PART.slots, POINT.slots
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_UP = (_ZERO, _ONE, _ZERO)
_LIGHT_POINT = 0
DARKEST, BRIGHTEST, DULLEST_METAL = 0.02, 0.9, 0.4
"""Linear base colours between soot and fresh snow are plausible; a metal reflects at least DULLEST_METAL."""
_TOO_DARK, _TOO_BRIGHT = (f32(0.02), f32(0.12), f32(0.85)), (f32(0.9), f32(0.03), f32(0.25))
_CHECKS_A_UNIT = f32(8.0)
_GOLDEN = f32(0.61803399)
WIRE_HALF_WIDTH = 0.55
"""Pixels."""
_ROOMY, _CROWDED = (f32(0.80), f32(0.78), f32(0.72)), (f32(0.75), f32(0.05), f32(0.30))
_ROOMY_PIXELS = f32(256.0)
"""Triangles of so many pixels or more get the colour of an open mesh, of one pixel or less that of a crowded one."""


@njit(**SMALL)
def _hue(h):
    """A saturated linear colour of hue h in turns."""
    turn = f32(2.0 * math.pi)
    r = _HALF + _HALF * math.cos(turn * h)
    g = _HALF + _HALF * math.cos(turn * (h - f32(1.0 / 3.0)))
    b = _HALF + _HALF * math.cos(turn * (h - f32(2.0 / 3.0)))
    return f32(0.04) + f32(0.7) * r * r, f32(0.04) + f32(0.7) * g * g, f32(0.04) + f32(0.7) * b * b


@njit(**SMALL)
def _lit_sphere(right, up, facing):
    """The shade of a ball of clay in a fixed studio: a broad key from the upper left, a cool rim, a floor's bounce."""
    key = max(f32(-0.50) * right + f32(0.62) * up + f32(0.60) * facing, _ZERO)
    rim = max(f32(0.80) * right + f32(0.15) * up - f32(0.1) * facing, _ZERO)
    bounce = max(_HALF - _HALF * up, _ZERO)
    gloss = key * key
    gloss = gloss * gloss
    gloss = gloss * gloss * gloss * f32(0.25)
    rim = rim * rim
    return (
        f32(0.05) + f32(0.46) * key + f32(0.10) * rim + f32(0.06) * bounce + gloss,
        f32(0.05) + f32(0.43) * key + f32(0.14) * rim + f32(0.05) * bounce + gloss,
        f32(0.055) + f32(0.39) * key + f32(0.22) * rim + f32(0.045) * bounce + gloss,
    )


@njit(**SMALL)
def _checker(u, v, has_uvs):
    """Squares, eight a unit of the texture, a hue for each row and column; without coordinates a flat warning."""
    if not has_uvs:
        return f32(0.5), f32(0.05), f32(0.2)
    x, y = u * _CHECKS_A_UNIT, v * _CHECKS_A_UNIT
    i, j = math.floor(x), math.floor(y)
    light = _HALF if (int(i) + int(j)) % 2 == 0 else f32(0.08)
    tint = _hue((i * f32(0.125)) * _HALF + (j * f32(0.125)) * f32(0.37))
    # A mark in the corner of each square shows which way is up.
    if x - i < f32(0.3) and y - j < f32(0.15):
        light = f32(0.9)
    return lerp((light, light, light), scale(tint, f32(2.0) * light), f32(0.45))


@njit(**SMALL)
def _plausible(s):
    """The base colour in grey, or the mark of one that no real surface has."""
    base = peek_vector(s, U.base_color)
    metal, clear = peek_f32(s, U.metalness), peek_f32(s, U.transmission)
    y = luminance(base)
    if clear > _HALF:
        return y * f32(0.5), y * f32(0.5), y * f32(0.5)
    least = f32(DARKEST) + (f32(DULLEST_METAL) - f32(DARKEST)) * metal
    if max_component(base) < least or y < least:
        return _TOO_DARK
    if metal < _HALF and max_component(base) > f32(BRIGHTEST):
        return _TOO_BRIGHT
    return y, y, y


@njit(**SMALL)
def _on_screen(camera, p):
    """Place [pixel] of a point in the picture, without shift and distortion, which are the same for all near it."""
    to = sub(p, load_vector(camera, K.position))
    along = _ONE
    if load_i32(camera, K.orthographic) == 0:
        along = max(dot(to, load_vector(camera, K.forward)), f32(1e-9))
    side = _ONE / (along * load_f32(camera, K.pixel))
    return dot(to, load_vector(camera, K.right)) * side, dot(to, load_vector(camera, K.up)) * side


@njit(**SMALL)
def _edge_distance(ax, ay, bx, by, px, py):
    """Distance [pixel] of (px, py) from the line through a and b."""
    dx, dy = bx - ax, by - ay
    length = math.sqrt(dx * dx + dy * dy)
    if length < f32(1e-6):
        return math.sqrt((px - ax) * (px - ax) + (py - ay) * (py - ay))
    return abs((px - ax) * dy - (py - ay) * dx) / length


@njit(**EXACT)
def _wire(scene, hit, ray, part, primitive, here):
    """(coverage, colour) of the lines of the mesh at a hit; the colour says how many pixels a triangle has."""
    camera = load_u64(scene, C.camera)
    p0, p1, p2 = triangle_corners(scene, hit, ray, part, primitive)
    x0, y0 = _on_screen(camera, p0)
    x1, y1 = _on_screen(camera, p1)
    x2, y2 = _on_screen(camera, p2)
    px, py = _on_screen(camera, here)
    near = min(
        _edge_distance(x0, y0, x1, y1, px, py),
        min(_edge_distance(x1, y1, x2, y2, px, py), _edge_distance(x2, y2, x0, y0, px, py)),
    )
    area = abs((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)) * _HALF
    open_mesh = math.log(max(area, _ONE)) / math.log(_ROOMY_PIXELS)
    color = lerp(_CROWDED, _ROOMY, min(open_mesh, _ONE))
    # Where triangles are smaller than pixels the lines are everywhere: they must not hide the picture.
    full = f32(0.25) + f32(0.75) * min(open_mesh, _ONE)
    return full if near < f32(WIRE_HALF_WIDTH) else _ZERO, color


@njit(**SMALL)
def _is_open(scene, tree, scratch, sampler, start, n):
    """1 when one ray over the hemisphere about n meets nothing within reach, else 0."""
    settings = load_u64(scene, C.settings)
    wi = sample_cosine(
        draw(sampler, AFTER_CAMERA + _LIGHT_POINT),
        draw(sampler, AFTER_CAMERA + _LIGHT_POINT + 1),
    )
    tangent, bitangent = frame_around(n)
    wi = to_world(wi, tangent, bitangent, n)
    reach = load_f32(settings, S.reach)
    count(scratch, SHADOW_RAYS)
    if ground_distance(settings, start, wi) < reach or is_occluded(
        tree, scratch + RAY_AT, start, wi, reach, SHADOW_RAY
    ):
        return _ZERO
    return _ONE


@njit(**SMALL)
def _openness(scene, tree, scratch, sampler, start, n):
    """Grey of a place for ambient occlusion."""
    y_open = _is_open(scene, tree, scratch, sampler, start, n)
    return y_open * f32(0.9), y_open * f32(0.9), y_open * f32(0.9)


@njit(**SMALL)
def ground_openness(scene, tree, scratch, sampler, here):
    """Grey of a place on the ground for ambient occlusion."""
    y_open = _is_open(scene, tree, scratch, sampler, leave_surface(here, _UP, ground_ray_offset(here)), _UP)
    return y_open * f32(0.8), y_open * f32(0.8), y_open * f32(0.8)


@njit(**SMALL)
def _depth_grey(settings, depth):
    """Near is bright, far is dark."""
    near, far = load_f32(settings, S.near), load_f32(settings, S.far)
    t = min(max((depth - near) / max(far - near, f32(1e-9)), _ZERO), _ONE)
    bright = f32(0.9) * (_ONE - t) + f32(0.04)
    return bright, bright, bright


@njit(**SMALL)
def _checkered(scene, hit, part, primitive, bu, bv, facing):
    """Squares of the first UV set, shaded by `facing`."""
    meshes, point = load_u64(scene, C.meshes), hit + POINT_IN_HIT
    row = load_i32(load_u64(scene, C.parts), part * PART_WIDTH + P.mesh) * MESH_WIDTH
    fill_point(scene, point, part, primitive, bu, bv, 1)
    color = _checker(peek_f32(point, T.uv), peek_f32(point, T.uv + 1), load_i64(meshes, row + A.uv_sets) != 0)
    return scale(color, f32(0.4) + f32(0.6) * facing)


@njit(**EXACT)
def data_color(scene, tree, scratch, sampler, way, met, direction, depth):
    """(alpha, display colour, linear) of the surface in the HIT record, met at (part, primitive, u, v)."""
    settings, camera, hit = load_u64(scene, C.settings), load_u64(scene, C.camera), scratch + HIT_AT
    part, primitive, bu, bv = met
    n = peek_vector(hit, H.shading)
    facing = max(-dot(n, direction), _ZERO)
    if way == WIRES:
        coverage, color = _wire(scene, hit, scratch + RAY_AT, part, primitive, peek_vector(hit, H.position))
        return coverage, scale(color, coverage)
    if way == NORMALS:
        color = (_HALF + _HALF * n[0], _HALF + _HALF * n[1], _HALF + _HALF * n[2])
        return _ONE, mul(color, color)
    if way == SPHERE:
        along = -dot(n, load_vector(camera, K.forward))
        return _ONE, _lit_sphere(dot(n, load_vector(camera, K.right)), dot(n, load_vector(camera, K.up)), along)
    if way == PARTS:
        return _ONE, scale(_hue(f32(part) * _GOLDEN), f32(0.35) + f32(0.65) * facing)
    if way == CHECKER:
        return _ONE, _checkered(scene, hit, part, primitive, bu, bv, facing)
    if way == DEPTH:
        return _ONE, _depth_grey(settings, depth)
    if way == OCCLUSION:
        offset = peek_f32(hit, H.ray_offset)
        start = leave_surface(peek_vector(hit, H.terminator), peek_vector(hit, H.geometric), offset)
        return _ONE, _openness(scene, tree, scratch, sampler, start, n)
    if way == REFLECTANCE:
        return _ONE, reflected(scene, scratch, sampler, direction)
    fill_surface(scene, scratch + SURFACE_AT, hit, scratch + MEDIUM_AT, _ZERO, _ZERO)
    return _ONE, _plausible(scratch + SURFACE_AT)
