"""The path kernel: unidirectional path tracing with light sampling, multiple importance sampling and features.

Kajiya, "The Rendering Equation", 1986; Veach, "Robust Monte Carlo Methods", 1997, ch. 9 (power heuristic) and
section 10.4.1 (Russian roulette). One kernel call a thread and pass: it takes tiles from an atomic counter, brings
every pixel of a tile to the wanted number of samples, and polls a cancel flag between tiles. A film row remembers
its own sample count, so a cancelled pass leaves a film that can be resumed without a trace.
"""

import math
from typing import NamedTuple

from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.elementary import INV_PI, PI
from lantern.kernel.memory import (
    fetch_add_i32,
    load_f32,
    load_i32,
    load_u64,
    peek_f32,
    peek_i32,
    peek_i64,
    store_f32,
    store_i32,
    store_i64,
)
from lantern.kernel.random import path_key, uniform
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
    neg,
    normalize,
    scale,
    to_local,
    to_world,
)
from lantern.light.environment_kernels import expect_lookup, expect_sample, radiance_and_density, sample_environment
from lantern.surface.diffuse import sample_cosine
from lantern.surface.lookup import ABSORPTION, MATERIAL_WIDTH, THIN_WALLED, TRANSMISSION, surface_at
from lantern.surface.openpbr import evaluate, is_smooth, prepare, sample
from lantern.trace.embree import FAR, intersect, is_occluded
from lantern.trace.hit import leave_surface, resolve_hit
from lantern.trace.layout import (
    CONTROL_CANCEL,
    CONTROL_NEXT,
    FILM,
    SCENE,
    SCRATCH_COUNTERS,
    SCRATCH_RAY,
    SCRATCH_RECORDS,
    SETTINGS,
    TILE,
)
from lantern.trace.lens import camera_ray, forward_axis

_SETTINGS, _CAMERA, _PARTS, _MESHES = (SCENE.slot(n) for n in ("settings", "camera", "parts", "meshes"))
_MATERIALS, _TEXTURES, _BINDINGS = (SCENE.slot(n) for n in ("materials", "textures", "bindings"))
_TEXELS, _ALBEDOS, _FILM, _CONTROL = (SCENE.slot(n) for n in ("texels", "albedos", "film", "control"))
_ENVIRONMENT, _PIXELS = SCENE.slot("environment"), SCENE.slot("environment_pixels")
_CHOICES, _DENSITIES = SCENE.slot("environment_choices"), SCENE.slot("environment_densities")
_EDGES = SCENE.slot("environment_edges")

_WIDTH, _HEIGHT, _TARGET = (SETTINGS.slot(n) for n in ("width", "height", "target_samples"))
_SEED, _DEPTH, _SEES_ENVIRONMENT = (SETTINGS.slot(n) for n in ("seed", "depth", "camera_sees_environment"))
_BACKDROP, _GROUND, _GROUND_HEIGHT = (SETTINGS.slot(n) for n in ("backdrop", "ground", "ground_height"))
_REFLECTANCE, _OPEN_IRRADIANCE = SETTINGS.slot("ground_reflectance"), SETTINGS.slot("open_irradiance")

_RADIANCE, _ALPHA, _ALBEDO, _NORMAL = (FILM.slot(n) for n in ("radiance", "alpha", "albedo", "normal"))
_FILM_DEPTH, _DEPTH_HITS, _SQUARED = (FILM.slot(n) for n in ("depth", "depth_hits", "squared_luminance"))
_PART_ID, _SAMPLES, _FILM_WIDTH = FILM.slot("part"), FILM.slot("samples"), FILM.width

_CAMERA_RAYS, _BOUNCE_RAYS, _SHADOW_RAYS, _NOT_FINITE = 0, 1, 2, 3
_DIMENSIONS_A_BOUNCE = 8
_LENS_DIMENSIONS = 4
_ROULETTE_FROM = 3
_LEAST_IRRADIANCE = f32(1e-6)
_BLACK = (f32(0.0), f32(0.0), f32(0.0))
_WHITE = (f32(1.0), f32(1.0), f32(1.0))


class Sample(NamedTuple):
    """What one path brings to its pixel."""

    radiance: tuple  # cd/m²
    alpha: float
    albedo: tuple
    normal: tuple
    depth: float  # m along the view axis; < 0 for no hit
    part: int


@njit(**SMALL)
def _vector(base, slot):
    return load_f32(base, slot), load_f32(base, slot + 1), load_f32(base, slot + 2)


@njit(**SMALL)
def _count(scratch, kind):
    store_i64(scratch, SCRATCH_COUNTERS + kind, peek_i64(scratch, SCRATCH_COUNTERS + kind) + 1)


@njit(**SMALL)
def _record(scratch, origin, direction, far):
    """Keep a ray for the benchmark, if this thread was given room for it."""
    room = peek_i64(scratch, SCRATCH_RECORDS + 2)
    if room == 0:
        return
    used = peek_i64(scratch, SCRATCH_RECORDS + 1)
    if used < room:
        row = used * 8
        records = load_u64(scratch, SCRATCH_RECORDS)
        store_f32(records, row, origin[0])
        store_f32(records, row + 1, origin[1])
        store_f32(records, row + 2, origin[2])
        store_f32(records, row + 3, direction[0])
        store_f32(records, row + 4, direction[1])
        store_f32(records, row + 5, direction[2])
        store_f32(records, row + 6, far)
        store_i64(scratch, SCRATCH_RECORDS + 1, used + 1)


@njit(**SMALL)
def _power_heuristic(a, b):
    """Weight of a technique of density a against one of density b, exponent 2; safe for huge densities."""
    if a <= f32(0.0):
        return f32(0.0)
    r = b / a
    return f32(1.0) / (f32(1.0) + r * r)


@njit(**SMALL)
def _ground_distance(settings, origin, direction):
    """Distance to the ground seen from above, FAR if there is none that way."""
    if load_i32(settings, _GROUND) == 0 or direction[1] >= f32(0.0):
        return FAR
    above = origin[1] - load_f32(settings, _GROUND_HEIGHT)
    return above / -direction[1] if above > f32(0.0) else FAR


@njit(**SMALL)
def _feature_albedo(s):
    """Colour of the surface as the denoiser wants it: glass counts as white, as it shows what is behind."""
    clear = s.transmission * (f32(1.0) - s.metalness)
    return lerp(s.base_color, s.transmission_color, clear)


@njit(**SMALL)
def trace_path(scene, tree, scratch, x, y, index):
    """Follow one path of pixel (x, y), sample number `index`; addresses of the scene block, tree and scratch."""
    settings = load_u64(scene, _SETTINGS)
    camera = load_u64(scene, _CAMERA)
    parts, meshes = load_u64(scene, _PARTS), load_u64(scene, _MESHES)
    materials, textures = load_u64(scene, _MATERIALS), load_u64(scene, _TEXTURES)
    bindings, texels = load_u64(scene, _BINDINGS), load_u64(scene, _TEXELS)
    albedos, environment = load_u64(scene, _ALBEDOS), load_u64(scene, _ENVIRONMENT)
    pixels, choices = load_u64(scene, _PIXELS), load_u64(scene, _CHOICES)
    densities, edges = load_u64(scene, _DENSITIES), load_u64(scene, _EDGES)
    ray = scratch + SCRATCH_RAY

    key = path_key(y * load_i32(settings, _WIDTH) + x, index, load_i32(settings, _SEED))
    origin, direction = camera_ray(camera, x, y, uniform(key, 0), uniform(key, 1), uniform(key, 2), uniform(key, 3))
    depth_limit = load_i32(settings, _DEPTH)
    view = forward_axis(camera)
    sees_environment = load_i32(settings, _SEES_ENVIRONMENT) != 0

    radiance, beta = _BLACK, _WHITE
    alpha, hit_depth, hit_part = f32(1.0), f32(-1.0), -1
    albedo, normal = _WHITE, _BLACK
    backdrop = _WHITE
    is_catching = False
    # Density of the lobe that chose this ray; 0 when no light was sampled there, so that the light counts whole.
    density = f32(0.0)

    for bounce in range(depth_limit):
        _count(scratch, _CAMERA_RAYS if bounce == 0 else _BOUNCE_RAYS)
        _record(scratch, origin, direction, FAR)
        dimension = u32(_LENS_DIMENSIONS + bounce * _DIMENSIONS_A_BOUNCE)
        map_u, map_v = f32(0.0), f32(0.0)
        if bounce > 0 or sees_environment:
            map_u, map_v = expect_lookup(environment, pixels, densities, direction)
        expect_sample(environment, choices, uniform(key, dimension))
        part, primitive, bu, bv, distance = intersect(tree, ray, origin, direction)
        to_ground = _ground_distance(settings, origin, direction)

        if to_ground < distance:
            up = (f32(0.0), f32(1.0), f32(0.0))
            point = add(origin, scale(direction, to_ground))
            point = (point[0], load_f32(settings, _GROUND_HEIGHT), point[2])
            reflectance = _vector(settings, _REFLECTANCE)
            open_irradiance = _vector(settings, _OPEN_IRRADIANCE)
            if bounce == 0:
                hit_depth = to_ground * dot(direction, view)
                normal = up
                lit = min(open_irradiance[0], min(open_irradiance[1], open_irradiance[2])) > _LEAST_IRRADIANCE
                if lit:
                    # The picture there is the backdrop times (light that arrives / light that would arrive).
                    is_catching = True
                    backdrop = _vector(settings, _BACKDROP)
                    if sees_environment:
                        backdrop = radiance_and_density(environment, pixels, densities, map_u, map_v)[0]
                    reflectance = (
                        PI / open_irradiance[0],
                        PI / open_irradiance[1],
                        PI / open_irradiance[2],
                    )
                else:
                    albedo = reflectance
            beta = mul(beta, reflectance)
            start = leave_surface(point, up)
            light, light_radiance, light_density = sample_environment(
                environment,
                pixels,
                choices,
                densities,
                edges,
                uniform(key, dimension),
                uniform(key, dimension + u32(1)),
                uniform(key, dimension + u32(2)),
                uniform(key, dimension + u32(3)),
            )
            cosine = light[1]
            if cosine > f32(0.0) and light_density > f32(0.0) and max_component(light_radiance) > f32(0.0):
                _count(scratch, _SHADOW_RAYS)
                _record(scratch, start, light, -FAR)
                if not is_occluded(tree, ray, start, light, FAR):
                    weight = _power_heuristic(light_density, cosine * INV_PI) * cosine * INV_PI / light_density
                    radiance = add(radiance, mul(beta, scale(light_radiance, weight)))
            wi = sample_cosine(uniform(key, dimension + u32(5)), uniform(key, dimension + u32(6)))
            density = wi[2] * INV_PI
            direction = (wi[0], wi[2], -wi[1])
            origin = start
        elif part < 0:
            sky, sky_density = radiance_and_density(environment, pixels, densities, map_u, map_v)
            if bounce == 0:
                alpha = f32(0.0)
                if sees_environment:
                    radiance = sky
                    albedo = (min(sky[0], f32(1.0)), min(sky[1], f32(1.0)), min(sky[2], f32(1.0)))
                else:
                    radiance = _vector(settings, _BACKDROP)
            else:
                weight = f32(1.0)
                if density > f32(0.0):
                    weight = _power_heuristic(density, sky_density)
                radiance = add(radiance, mul(beta, scale(sky, weight)))
            break
        else:
            hit = resolve_hit(parts, meshes, materials, textures, bindings, texels, part, primitive, bu, bv, direction)
            surface = surface_at(materials, textures, bindings, texels, hit.material, hit.u, hit.v, hit.entering)
            if not hit.entering:
                # The segment ran inside this part: Beer's law.
                row = hit.material * MATERIAL_WIDTH
                if load_i32(materials, row + THIN_WALLED) == 0 and load_f32(materials, row + TRANSMISSION) > f32(0.0):
                    sigma = _vector(materials, row + ABSORPTION)
                    if max_component(sigma) > f32(0.0):
                        beta = (
                            beta[0] * math.exp(-sigma[0] * distance),
                            beta[1] * math.exp(-sigma[1] * distance),
                            beta[2] * math.exp(-sigma[2] * distance),
                        )
            if bounce == 0:
                hit_depth = distance * dot(direction, view)
                hit_part = part
                normal = hit.shading_normal
                albedo = _feature_albedo(surface)
            if max_component(surface.emission) > f32(0.0):
                radiance = add(radiance, mul(beta, surface.emission))

            tangent, bitangent = frame_around(hit.shading_normal)
            wo = to_local(neg(direction), tangent, bitangent, hit.shading_normal)
            wo = (wo[0], wo[1], max(wo[2], f32(1e-4)))
            mixture = prepare(surface, wo, albedos)
            aims_at_light = not is_smooth(surface)
            if aims_at_light:
                light, light_radiance, light_density = sample_environment(
                    environment,
                    pixels,
                    choices,
                    densities,
                    edges,
                    uniform(key, dimension),
                    uniform(key, dimension + u32(1)),
                    uniform(key, dimension + u32(2)),
                    uniform(key, dimension + u32(3)),
                )
                wi = to_local(light, tangent, bitangent, hit.shading_normal)
                side = dot(light, hit.geometric_normal)
                if side * wi[2] > f32(0.0) and light_density > f32(0.0):
                    value, lobe_density = evaluate(surface, mixture, wo, wi)
                    if max_component(value) > f32(0.0) and max_component(light_radiance) > f32(0.0):
                        outward = hit.geometric_normal if side > f32(0.0) else neg(hit.geometric_normal)
                        start = leave_surface(hit.position, outward)
                        blocked = _ground_distance(settings, start, light) < FAR
                        if not blocked:
                            _count(scratch, _SHADOW_RAYS)
                            _record(scratch, start, light, -FAR)
                            blocked = is_occluded(tree, ray, start, light, FAR)
                        if not blocked:
                            weight = _power_heuristic(light_density, lobe_density) / light_density
                            radiance = add(radiance, mul(beta, mul(scale(light_radiance, weight), value)))

            wi = sample(
                surface,
                mixture,
                wo,
                uniform(key, dimension + u32(4)),
                uniform(key, dimension + u32(5)),
                uniform(key, dimension + u32(6)),
            )
            if wi[2] == f32(0.0):
                break
            value, lobe_density = evaluate(surface, mixture, wo, wi)
            if lobe_density <= f32(0.0):
                break
            direction = normalize(to_world(wi, tangent, bitangent, hit.shading_normal))
            side = dot(direction, hit.geometric_normal)
            if side * wi[2] <= f32(0.0):
                break
            beta = mul(beta, scale(value, f32(1.0) / lobe_density))
            density = lobe_density if aims_at_light else f32(0.0)
            outward = hit.geometric_normal if side > f32(0.0) else neg(hit.geometric_normal)
            origin = leave_surface(hit.position, outward)

        brightest = max_component(beta)
        if not brightest > f32(0.0):
            break
        if bounce >= _ROULETTE_FROM and not is_catching:
            survival = min(brightest, f32(0.95))
            if uniform(key, dimension + u32(7)) >= survival:
                break
            beta = scale(beta, f32(1.0) / survival)

    if is_catching:
        alpha = f32(1.0) - luminance(radiance)
        radiance = mul(radiance, backdrop)
    return Sample(radiance, alpha, albedo, normal, hit_depth, hit_part)


@njit(**SMALL)
def _add_to_film(film, row, s):
    """Add one sample; in a fixed order for each pixel, so that sums do not depend on how a frame was split."""
    for c in range(3):
        store_f32(film, row + _RADIANCE + c, peek_f32(film, row + _RADIANCE + c) + s.radiance[c])
        store_f32(film, row + _ALBEDO + c, peek_f32(film, row + _ALBEDO + c) + s.albedo[c])
        store_f32(film, row + _NORMAL + c, peek_f32(film, row + _NORMAL + c) + s.normal[c])
    store_f32(film, row + _ALPHA, peek_f32(film, row + _ALPHA) + s.alpha)
    if s.depth >= f32(0.0):
        store_f32(film, row + _FILM_DEPTH, peek_f32(film, row + _FILM_DEPTH) + s.depth)
        store_f32(film, row + _DEPTH_HITS, peek_f32(film, row + _DEPTH_HITS) + f32(1.0))
    brightness = luminance(s.radiance)
    store_f32(film, row + _SQUARED, peek_f32(film, row + _SQUARED) + brightness * brightness)


@njit(cache=True, **EXACT)
def trace_tiles(scene, tree, scratch):
    """Take tiles until none is left or the pass is cancelled. `scene`, `tree`, `scratch` are addresses (uint64)."""
    settings, film = load_u64(scene, _SETTINGS), load_u64(scene, _FILM)
    control = load_u64(scene, _CONTROL)
    width, height = load_i32(settings, _WIDTH), load_i32(settings, _HEIGHT)
    target = load_i32(settings, _TARGET)
    across = (width + TILE - 1) // TILE
    tiles = across * ((height + TILE - 1) // TILE)
    while peek_i32(control, CONTROL_CANCEL) == 0:
        tile = fetch_add_i32(control, CONTROL_NEXT, 1)
        if tile >= tiles:
            break
        y0 = tile // across * TILE
        x0 = tile % across * TILE
        for y in range(y0, min(y0 + TILE, height)):
            for x in range(x0, min(x0 + TILE, width)):
                row = (y * width + x) * _FILM_WIDTH
                first = peek_i32(film, row + _SAMPLES)
                for index in range(first, target):
                    s = trace_path(scene, tree, scratch, x, y, index)
                    if index == 0:
                        store_i32(film, row + _PART_ID, s.part)
                    if math.isfinite(s.radiance[0] + s.radiance[1] + s.radiance[2] + s.alpha):
                        _add_to_film(film, row, s)
                    else:
                        _count(scratch, _NOT_FINITE)
                store_i32(film, row + _SAMPLES, max(target, first))
