"""Ways of looking that follow no paths: the draft, the data of the surface, ambient occlusion, the lines of the mesh.

The draft is shaded by `trace.draft`. All end at the first thing a ray meets. Data ways make display values, linear, not
light. Called by passes of views that are not the proof's.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_i64,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.points import draw
from lantern.kernel.random import uniform
from lantern.kernel.vectors import (
    EXACT,
    SMALL,
    add,
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
from lantern.light.shapes import LIGHT, LIGHT_WIDTH
from lantern.surface.diffuse import sample_cosine
from lantern.surface.lookup import MATERIAL_WIDTH, emission_at
from lantern.surface.material import MATERIAL
from lantern.surface.record import SURFACE
from lantern.trace.boundary import fill_surface, sees_hole
from lantern.trace.counting import count
from lantern.trace.draft import backdrop_seen, clear_share, shade, shade_ground
from lantern.trace.embree import FAR, intersect, is_occluded
from lantern.trace.ground import ground_distance
from lantern.trace.hit import leave_hit, leave_surface, resolve_hit, triangle_corners
from lantern.trace.layout import (
    AROUND_CAMERA_AT,
    CAMERA,
    CAMERA_RAY,
    CAMERA_RAYS,
    HIT,
    HIT_AT,
    MEDIUM_AT,
    MESH,
    PART,
    RAY_AT,
    RESULT,
    RESULT_AT,
    SCENE,
    SETTINGS,
    SHADOW_RAY,
    SHADOW_RAYS,
    SURFACE_AT,
)
from lantern.trace.lens import forward_axis
from lantern.trace.lighting import meet_light
from lantern.trace.medium import copy_media
from lantern.trace.placement import MESH_WIDTH, PART_WIDTH, ROUNDING
from lantern.trace.primary import AFTER_CAMERA, primary_ray
from lantern.trace.tiles import fill_tiles
from lantern.trace.view import ALBEDO, CHECKER, DEPTH, DRAFT, NORMALS, OCCLUSION, PARTS, SPHERE, WIRES

C, S, R, K = SCENE.slots, SETTINGS.slots, RESULT.slots, CAMERA.slots
H, L, M, U = HIT.slots, LIGHT.slots, MATERIAL.slots, SURFACE.slots
A, P = MESH.slots, PART.slots
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_BLACK, _WHITE, _UP = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE), (_ZERO, _ONE, _ZERO)
_LIGHT_POINT = 0
_OPACITY = 1 << 12
_MOST_LAYERS = 16
_EMPTY = (f32(0.035), f32(0.035), f32(0.035))
"""What data ways show where nothing is."""
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


@njit(**EXACT)
def look_at(scene, tree, scratch, point, x, y, index):
    """Leave in the RESULT record what sample `index` of pixel (x, y) shows in the way of the settings."""
    settings, materials = load_u64(scene, C.settings), load_u64(scene, C.materials)
    ray, hit, surface, result = scratch + RAY_AT, scratch + HIT_AT, scratch + SURFACE_AT, scratch + RESULT_AT
    way = load_i32(settings, S.way)
    origin, direction, sampler = primary_ray(scene, ray, point, x, y, index)
    view = forward_axis(load_u64(scene, C.camera))
    copy_media(scratch + MEDIUM_AT, scratch + AROUND_CAMERA_AT)
    shaped = way == DRAFT and load_i32(settings, S.shaped_lights) != 0

    radiance, beta = _BLACK, _WHITE
    alpha, hit_depth, hit_part, hit_material = _ONE, f32(-1.0), -1, -1
    normal, albedo = _BLACK, _WHITE
    travelled = _ZERO
    color = _EMPTY
    for layer in range(_MOST_LAYERS):
        count(scratch, CAMERA_RAYS)
        part, primitive, bu, bv, distance = intersect(tree, ray, origin, direction, _ZERO, FAR, CAMERA_RAY)
        to_ground = ground_distance(settings, origin, direction)
        if shaped:
            number, _, _ = meet_light(scene, ray, origin, direction, min(distance, to_ground), True)
            if number >= 0:
                color = load_vector(load_u64(scene, C.lights), number * LIGHT_WIDTH + L.radiance)
                break
        if to_ground < distance:
            here = add(origin, scale(direction, to_ground))
            here = (here[0], load_f32(settings, S.ground_height), here[2])
            if hit_part < 0 and hit_depth < _ZERO:
                hit_depth = (travelled + to_ground) * dot(direction, view)
                normal = _UP
            if way == DRAFT:
                color = shade_ground(scene, tree, scratch, sampler, direction, here)
            elif way == OCCLUSION:
                clearance = ROUNDING * max(abs(here[0]), max(abs(here[1]), abs(here[2])))
                start = leave_surface(here, _UP, clearance)
                y_open = _is_open(scene, tree, scratch, sampler, start, _UP)
                color = (y_open * f32(0.8), y_open * f32(0.8), y_open * f32(0.8))
            elif way == WIRES:
                alpha = _ZERO
            break
        if part < 0:
            alpha = _ZERO
            if way == DRAFT:
                color = backdrop_seen(scene, direction)
            break
        resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
        if load_i32(settings, S.opacity) != 0 and sees_hole(
            scene, part, primitive, bu, bv, uniform(sampler[5], _OPACITY + layer)
        ):
            origin = leave_hit(hit, True)
            travelled += distance
            continue
        n, here = peek_vector(hit, H.shading), peek_vector(hit, H.position)
        material = peek_i32(hit, H.material)
        if hit_part < 0:
            hit_depth = (travelled + distance) * dot(direction, view)
            hit_part, hit_material, normal = part, material, n
        if way == WIRES:
            alpha, color = _wire(scene, hit, ray, part, primitive, here)
            color = scale(color, alpha)
            break
        if way == NORMALS:
            color = (_HALF + _HALF * n[0], _HALF + _HALF * n[1], _HALF + _HALF * n[2])
            color = (color[0] * color[0], color[1] * color[1], color[2] * color[2])
            break
        if way == SPHERE:
            camera = load_u64(scene, C.camera)
            color = _lit_sphere(dot(n, load_vector(camera, K.right)), dot(n, load_vector(camera, K.up)), -dot(n, view))
            break
        if way == PARTS:
            facing = f32(0.35) + f32(0.65) * max(-dot(n, direction), _ZERO)
            color = scale(_hue(f32(part) * _GOLDEN), facing)
            break
        if way == CHECKER:
            meshes = load_u64(scene, C.meshes)
            row = load_i32(load_u64(scene, C.parts), part * PART_WIDTH + P.mesh) * MESH_WIDTH
            facing = f32(0.4) + f32(0.6) * max(-dot(n, direction), _ZERO)
            color = scale(
                _checker(peek_f32(hit, H.u), peek_f32(hit, H.v), load_i64(meshes, row + A.has_uvs) != 0), facing
            )
            break
        if way == DEPTH:
            near, far = load_f32(settings, S.near), load_f32(settings, S.far)
            t = min(max((hit_depth - near) / max(far - near, f32(1e-9)), _ZERO), _ONE)
            bright = f32(0.9) * (_ONE - t) + f32(0.04)
            color = (bright, bright, bright)
            break
        if way == OCCLUSION:
            start = leave_surface(peek_vector(hit, H.lifted), peek_vector(hit, H.geometric), peek_f32(hit, H.clearance))
            y_open = _is_open(scene, tree, scratch, sampler, start, n)
            color = (y_open * f32(0.9), y_open * f32(0.9), y_open * f32(0.9))
            break
        fill_surface(scene, surface, hit, scratch + MEDIUM_AT, _ZERO, _ZERO)
        if way == ALBEDO:
            color = _plausible(surface)
            break
        # The draft: what is clear is gone straight through.
        if layer == 0:
            albedo = peek_vector(surface, U.base_color)
        shaded = shade(scene, tree, scratch, sampler, direction, n)
        if max_component(load_vector(materials, material * MATERIAL_WIDTH + M.emission)) > _ZERO:
            shaded = add(
                shaded,
                emission_at(
                    materials,
                    load_u64(scene, C.textures),
                    load_u64(scene, C.bindings),
                    load_u64(scene, C.texels),
                    material,
                    peek_f32(hit, H.u),
                    peek_f32(hit, H.v),
                ),
            )
        radiance = add(radiance, mul(beta, shaded))
        color = _BLACK
        beta = mul(beta, clear_share(scene, surface, n, direction))
        if max_component(beta) < f32(0.01):
            break
        origin = leave_hit(hit, True)
        travelled += distance
    if way == DRAFT:
        albedo = albedo if hit_part >= 0 else _WHITE
    radiance = add(radiance, mul(beta, color))
    store_vector(result, R.radiance, radiance)
    store_f32(result, R.alpha, alpha)
    store_vector(result, R.albedo, albedo)
    store_vector(result, R.normal, normal)
    store_f32(result, R.depth, hit_depth)
    store_i32(result, R.part, hit_part)
    store_i32(result, R.material, hit_material)
    return _WHITE


@njit(cache=True, **EXACT)
def look_tiles(scene, tree, scratch):
    """Fill tiles with a way of looking. `scene`, `tree`, `scratch` are addresses (uint64)."""
    fill_tiles(look_at, scene, tree, scratch)
