"""The path kernel: unidirectional path tracing through surfaces and volumes, with light sampling and feature layers.

Kajiya, "The Rendering Equation", 1986; Veach, "Robust Monte Carlo Methods", 1997, ch. 9 (power heuristic) and
section 10.4.1 (Russian roulette). Called by `trace.tiles` for each sample of each pixel.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI, PI
from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_i64,
    peek_vector,
    store_f32,
    store_i32,
    store_i64,
    store_vector,
)
from lantern.kernel.points import draw
from lantern.kernel.random import uniform
from lantern.kernel.spectrum import LONGEST, SHORTEST, wavelength_weight
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
    sub,
    to_local,
    to_world,
)
from lantern.light.environment_kernels import expect_lookup, radiance_and_density
from lantern.light.shapes import LIGHT, LIGHT_WIDTH, shape_density
from lantern.light.tree_kernels import pick_probability
from lantern.surface.diffuse import sample_cosine
from lantern.surface.evaluate import evaluate
from lantern.surface.lookup import MATERIAL_WIDTH, emission_at
from lantern.surface.material import MATERIAL
from lantern.surface.prepare import prepare
from lantern.surface.record import SURFACE
from lantern.surface.sample import ENTERED, is_smooth, sample
from lantern.trace.boundary import cross_boundary, fill_surface, is_hidden, sees_hole
from lantern.trace.counting import count
from lantern.trace.embree import FAR, intersect
from lantern.trace.ground import ground_distance, reflect_on_ground
from lantern.trace.hit import leave_hit, leave_surface, resolve_hit
from lantern.trace.layers import (
    DIFFUSE,
    POSITION,
    SPECULAR,
    TRANSMISSION,
    clear_sums,
    deposit,
    deposit_seen,
    deposit_shadow,
)
from lantern.trace.layout import (
    AROUND_CAMERA_AT,
    BOUNCE_RAY,
    BOUNCE_RAYS,
    CAMERA_RAY,
    CAMERA_RAYS,
    ENVIRONMENT_GROUP,
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM,
    MEDIUM_AT,
    RAY_AT,
    RESULT,
    RESULT_AT,
    SCENE,
    SCRATCH_RECORDS,
    SETTINGS,
    SHADOW_RAY,
    SHADOW_RAYS,
    SURFACE_AT,
)
from lantern.trace.lens import forward_axis
from lantern.trace.lighting import (
    aim_at_light,
    aimed_radiance,
    distant_radiance,
    light_through,
    lit_by,
    meet_light,
    power_heuristic,
    triangle_density,
)
from lantern.trace.medium import (
    CLEAR,
    HAZE,
    copy_media,
    fading,
    haze_span,
    phase,
    sample_free_path,
    sample_phase,
)
from lantern.trace.placement import ROUNDING
from lantern.trace.primary import AFTER_CAMERA, WAVELENGTH, primary_ray
from lantern.trace.subsurface import walk_under

C, S, R = SCENE.slots, SETTINGS.slots, RESULT.slots
H, Q, D, L, M = HIT.slots, LIGHT_SAMPLE.slots, MEDIUM.slots, LIGHT.slots, MATERIAL.slots
U = SURFACE.slots

# Dimensions of the sample points after those of the camera: every bounce has 12.
_LIGHT_POINT, _LOBE_POINT, _LIGHT_CHOICE, _LOBE_CHOICE, _ROULETTE = 0, 2, 4, 5, 6
_FREE_PATH, _CHANNEL, _PHASE_POINT, _A_BOUNCE = 8, 9, 10, 12
_OPACITY, _POLISH, _WALK = 1 << 12, 1 << 13, 1 << 16  # hashed

_ROULETTE_FROM, _CUT_FROM = 3, 12
"""Bounces from which a path may end by its weight, and from which even a bright one may."""
_LEAST_IRRADIANCE = f32(1e-6)
_WIDE = f32(0.1)
"""Alpha from which a bounce counts as wide: caustics behind it may be filtered."""
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)
_UP = (_ZERO, _ONE, _ZERO)
_SHORTEST, _RANGE = f32(SHORTEST), f32(LONGEST - SHORTEST)
_EVERY_LINK = -1

# What a ray came to.
_SKY, _GROUND, _SURFACE, _LIGHT, _SCATTER, _EXIT = range(6)


@njit(**SMALL)
def _record(scratch, origin, direction, far, mask):
    """Keep a ray for the benchmark, if this thread was given room for it."""
    room = peek_i64(scratch, SCRATCH_RECORDS + 2)
    if room == 0:
        return
    used = peek_i64(scratch, SCRATCH_RECORDS + 1)
    if used < room:
        row = used * 8
        records = load_u64(scratch, SCRATCH_RECORDS)
        store_vector(records, row, origin)
        store_vector(records, row + 3, direction)
        store_f32(records, row + 6, far)
        store_f32(records, row + 7, f32(mask))
        store_i64(scratch, SCRATCH_RECORDS + 1, used + 1)


@njit(**SMALL)
def _feature_albedo(s):
    """Colour of the surface as the denoiser wants it: glass counts as white, as it shows what is behind."""
    clear = peek_f32(s, U.transmission) * (_ONE - peek_f32(s, U.metalness))
    base = peek_vector(s, U.base_color)
    share = peek_f32(s, U.subsurface)
    if share > _ZERO:
        base = lerp(base, peek_vector(s, U.subsurface_color), share)
    return lerp(base, _WHITE, clear)


@njit(**SMALL)
def _diffuse_share(s, value):
    """RGB share of what `evaluate` has just returned that its diffuse lobes brought."""
    part = peek_vector(s, U.diffuse_part)
    return (
        part[0] / max(value[0], f32(1e-20)),
        part[1] / max(value[1], f32(1e-20)),
        part[2] / max(value[2], f32(1e-20)),
    )


@njit(**EXACT)
def trace_path(scene, tree, scratch, point, x, y, index):
    """Follow path number `index` of pixel (x, y) and leave what it brings in the RESULT record.

    Addresses of the scene block, the ray library's tree, the thread's scratch memory and the sample's point.
    """
    settings, camera = load_u64(scene, C.settings), load_u64(scene, C.camera)
    materials = load_u64(scene, C.materials)
    environment, pixels = load_u64(scene, C.environment), load_u64(scene, C.environment_pixels)
    densities, mask = load_u64(scene, C.environment_densities), load_u64(scene, C.mask)
    films, has_layers = load_u64(scene, C.films), load_u64(scene, C.layers) != 0
    ray, hit, light_sample = scratch + RAY_AT, scratch + HIT_AT, scratch + LIGHT_AT
    medium, surface, result = scratch + MEDIUM_AT, scratch + SURFACE_AT, scratch + RESULT_AT

    origin, direction, pixel_key, key = primary_ray(scene, ray, point, x, y, index)
    copy_media(medium, scratch + AROUND_CAMERA_AT)
    depth_limit = load_i32(settings, S.depth)
    view = forward_axis(camera)
    sees_environment = load_i32(settings, S.camera_sees_environment) != 0
    sky_chance = load_f32(settings, S.environment_chance)
    shaped, distants = load_i32(settings, S.shaped_lights) != 0, load_i32(settings, S.distant_lights) != 0
    has_holes = load_i32(settings, S.opacity) != 0
    filtered_alpha = load_f32(settings, S.caustic_alpha)

    radiance, beta = _BLACK, _WHITE
    alpha, hit_depth, hit_part, hit_material = _ONE, f32(-1.0), -1, -1
    albedo, normal, position = _WHITE, _BLACK, _BLACK
    backdrop = _WHITE
    is_catching, reflects = False, False
    polished = load_f32(settings, S.ground_reflection) > _ZERO
    wavelength, least_alpha = _ZERO, _ZERO
    # The place the ray left, for weighing what it finds against having aimed at it: density of the direction, 0 when
    # nothing was aimed at there, so that the light counts whole.
    density, last_point, last_normal, last_on_surface, last_links, last_near = (
        _ZERO,
        origin,
        _UP,
        False,
        _EVERY_LINK,
        _ZERO,
    )
    segment_start = origin
    # Scattering events so far, and the shares of the first of them, for the layers.
    bounce, first_share, first_kind = 0, _WHITE, DIFFUSE
    if has_layers:
        clear_sums(result)
    leaves_walk = False

    for segment in range(depth_limit):
        dimension = AFTER_CAMERA + bounce * _A_BOUNCE
        event, distance, number, facing = _EXIT, FAR, -1, _ZERO
        part, primitive, bu, bv = -1, 0, _ZERO, _ZERO
        map_u, map_v = _ZERO, _ZERO
        if not leaves_walk:
            who = CAMERA_RAY if bounce == 0 else BOUNCE_RAY
            count(scratch, CAMERA_RAYS if bounce == 0 else BOUNCE_RAYS)
            _record(scratch, origin, direction, FAR, who)
            if bounce > 0 or sees_environment:
                map_u, map_v = expect_lookup(environment, pixels, densities, direction)
            part, primitive, bu, bv, distance = intersect(tree, ray, origin, direction, _ZERO, FAR, who)
            event = _SURFACE if part >= 0 else _SKY
            to_ground = ground_distance(settings, origin, direction)
            if to_ground < distance:
                event, distance = _GROUND, to_ground
            if shaped:
                number, distance, facing = meet_light(scene, ray, origin, direction, distance, bounce == 0)
                if number >= 0:
                    event = _LIGHT
            medium_kind = peek_i32(medium, D.kind)
            # A ray that leaves the scene from within a volume found a hole in its boundary: it is not absorbed.
            if medium_kind != CLEAR and (event != _SKY or medium_kind == HAZE):
                # A volume begins at its boundary, of which the ray has kept clear.
                begin, end = -dot(sub(origin, segment_start), direction), distance
                if medium_kind == HAZE:
                    begin, end = haze_span(settings, origin, direction, distance)
                if end > begin:
                    extinction, scattered = peek_vector(medium, D.extinction), peek_vector(medium, D.albedo)
                    if max_component(scattered) > _ZERO:
                        gone, carried = sample_free_path(
                            extinction,
                            beta,
                            end - begin,
                            draw(point, mask, x, y, pixel_key, key, dimension + _CHANNEL),
                            draw(point, mask, x, y, pixel_key, key, dimension + _FREE_PATH),
                        )
                        beta = mul(beta, carried)
                        if gone < end - begin:
                            beta = mul(beta, scattered)
                            event, distance = _SCATTER, max(begin + gone, _ZERO)
                    else:
                        beta = mul(beta, fading(extinction, end - begin))
        leaves_walk = False

        if event == _SKY:
            if bounce == 0 or (reflects and bounce == 1):
                alpha = _ZERO
                seen = _BLACK
                if reflects:
                    seen, beta = backdrop, _WHITE
                elif sees_environment:
                    seen = radiance_and_density(environment, pixels, densities, map_u, map_v)[0]
                    albedo = (min(seen[0], _ONE), min(seen[1], _ONE), min(seen[2], _ONE))
                    if distants:
                        disks, group = distant_radiance(scene, settings, direction, True, last_links, _ZERO, last_near)
                        disks = mul(beta, disks)
                        radiance = add(radiance, disks)
                        if has_layers:
                            deposit_seen(result, disks, group, True)
                else:
                    seen = load_vector(settings, S.backdrop)
                seen = mul(beta, seen)
                radiance = add(radiance, seen)
                if has_layers:
                    deposit_seen(result, seen, ENVIRONMENT_GROUP, True)
            else:
                sky, sky_density = radiance_and_density(environment, pixels, densities, map_u, map_v)
                weight = _ONE
                if density > _ZERO:
                    weight = power_heuristic(density, sky_density * sky_chance * (_ONE - last_near))
                sky = scale(sky, weight)
                brought = mul(beta, sky)
                radiance = add(radiance, brought)
                if has_layers:
                    deposit(result, brought, ENVIRONMENT_GROUP, bounce == 1, first_share, first_kind)
                if distants:
                    disks, group = distant_radiance(scene, settings, direction, False, last_links, density, last_near)
                    brought = mul(beta, disks)
                    radiance = add(radiance, brought)
                    if has_layers:
                        deposit(result, brought, group, bounce == 1, first_share, first_kind)
            break

        if event == _LIGHT:
            lights = load_u64(scene, C.lights)
            row = number * LIGHT_WIDTH
            weight = _ONE
            if density > _ZERO:
                aimed = pick_probability(
                    load_u64(scene, C.light_nodes),
                    load_u64(scene, C.light_shares),
                    lights,
                    last_point,
                    last_normal,
                    last_on_surface,
                    number,
                )
                aimed *= last_near * shape_density(lights, row, last_point, direction, distance, facing)
                weight = power_heuristic(density, aimed)
            if not lit_by(last_links, load_i32(lights, row + L.link)):
                weight = _ZERO
            brought = mul(beta, scale(load_vector(lights, row + L.radiance), weight))
            radiance = add(radiance, brought)
            group = load_i32(lights, row + L.group)
            if bounce == 0:
                hit_depth = distance * dot(direction, view)
                if has_layers:
                    deposit_seen(result, brought, group, False)
            elif has_layers:
                deposit(result, brought, group, bounce == 1, first_share, first_kind)
            break

        here = add(origin, scale(direction, distance)) if event != _EXIT else origin
        n, on_surface, links, receives = _UP, True, _EVERY_LINK, True
        aims_at_light = True
        wo = _UP
        clearance, arrives = _ZERO, _ONE
        if event == _SURFACE:
            if has_holes and sees_hole(scene, part, primitive, bu, bv, uniform(key, _OPACITY + segment)):
                resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
                origin, segment_start = leave_hit(hit, True), peek_vector(hit, H.position)
                continue
            resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
            here, n = peek_vector(hit, H.position), peek_vector(hit, H.shading)
            if is_hidden(scene, medium, hit, wavelength):
                cross_boundary(scene, medium, hit)
                origin, segment_start = leave_hit(hit, True), here
                continue
            material = peek_i32(hit, H.material)
            row = material * MATERIAL_WIDTH
            if wavelength == _ZERO and load_f32(materials, row + M.cauchy_b) != _ZERO:
                # From its first dispersing boundary on a path has one wavelength.
                t = draw(point, mask, x, y, pixel_key, key, WAVELENGTH)
                wavelength = _SHORTEST + _RANGE * t
                beta = mul(beta, wavelength_weight(t))
            fill_surface(scene, surface, hit, medium, wavelength, least_alpha)
            links, receives = peek_i32(hit, H.links), peek_i32(hit, H.receives_shadow) != 0
            arrives = peek_f32(hit, H.arrives)
            if bounce == 0:
                hit_depth, hit_part, hit_material = distance * dot(direction, view), part, material
                normal, position = n, here
                albedo = _feature_albedo(surface)
            emission = load_vector(materials, row + M.emission)
            if max_component(emission) > _ZERO and peek_i32(hit, H.entering) != 0:
                emission = emission_at(
                    materials,
                    load_u64(scene, C.textures),
                    load_u64(scene, C.bindings),
                    load_u64(scene, C.texels),
                    material,
                    peek_f32(hit, H.u),
                    peek_f32(hit, H.v),
                )
                aimed, group = triangle_density(
                    scene,
                    light_sample,
                    part,
                    primitive,
                    direction,
                    distance,
                    last_point,
                    last_normal,
                    last_on_surface,
                )
                weight = power_heuristic(density, aimed) if density > _ZERO else _ONE
                brought = mul(beta, scale(emission, weight))
                radiance = add(radiance, brought)
                if has_layers:
                    if bounce == 0:
                        deposit_seen(result, brought, group, False)
                    else:
                        deposit(result, brought, group, bounce == 1, first_share, first_kind)
            tangent, bitangent = peek_vector(hit, H.tangent), peek_vector(hit, H.bitangent)
            wo = to_local(neg(direction), tangent, bitangent, n)
            wo = (wo[0], wo[1], max(wo[2], f32(1e-4)))
            prepare(surface, wo, load_u64(scene, C.albedos), films)
            aims_at_light = not is_smooth(surface)
        elif event == _GROUND:
            here = (here[0], load_f32(settings, S.ground_height), here[2])
            clearance = ROUNDING * max(abs(here[0]), max(abs(here[1]), abs(here[2])))
            arrives = load_f32(settings, S.ground_arrives)
            reflectance = load_vector(settings, S.ground_reflectance)
            if bounce == 0:
                hit_depth = distance * dot(direction, view)
                normal, position = _UP, here
                open_irradiance = load_vector(settings, S.open_irradiance)
                if min(open_irradiance[0], min(open_irradiance[1], open_irradiance[2])) > _LEAST_IRRADIANCE:
                    # The picture there is the backdrop times (light that arrives / light that would arrive).
                    backdrop = load_vector(settings, S.backdrop)
                    if sees_environment:
                        backdrop = radiance_and_density(environment, pixels, densities, map_u, map_v)[0]
                    if polished:
                        share, mirrored = reflect_on_ground(
                            settings,
                            direction,
                            uniform(key, _POLISH),
                            uniform(key, _POLISH + 1),
                            uniform(key, _POLISH + 2),
                        )
                        if share > _ZERO:
                            beta = scale(beta, share)
                            origin, direction = leave_surface(here, _UP, clearance), mirrored
                            last_point, last_normal, last_on_surface = here, _UP, True
                            reflects, first_share, first_kind = True, _BLACK, SPECULAR
                            bounce = 1
                            continue
                    is_catching = True
                    reflectance = (PI / open_irradiance[0], PI / open_irradiance[1], PI / open_irradiance[2])
                else:
                    albedo = reflectance
            beta = mul(beta, reflectance)
        elif event == _SCATTER:
            on_surface = False
            if bounce == 0:
                position = here
                hit_depth = distance * dot(direction, view)
        else:
            n, clearance = last_normal, peek_f32(hit, H.clearance)

        # One light is aimed at from here.
        if aims_at_light:
            aimed = aim_at_light(
                scene,
                light_sample,
                here,
                n,
                on_surface,
                links,
                arrives,
                draw(point, mask, x, y, pixel_key, key, dimension + _LIGHT_CHOICE),
                draw(point, mask, x, y, pixel_key, key, dimension + _LIGHT_POINT),
                draw(point, mask, x, y, pixel_key, key, dimension + _LIGHT_POINT + 1),
            )
            if aimed > _ZERO:
                wi = peek_vector(light_sample, Q.direction)
                value, lobe_density = _BLACK, _ZERO
                start, share, kind = here, _WHITE, DIFFUSE
                if event == _SURFACE:
                    geometric = peek_vector(hit, H.geometric)
                    side = dot(wi, geometric)
                    local = to_local(wi, tangent, bitangent, n)
                    if side * local[2] > _ZERO:
                        value, lobe_density = evaluate(surface, wo, local, films)
                        if side > _ZERO:
                            start = leave_surface(peek_vector(hit, H.lifted), geometric, peek_f32(hit, H.clearance))
                        else:
                            start = leave_hit(hit, True)
                        if has_layers:
                            share = _diffuse_share(surface, value)
                            kind = SPECULAR if side > _ZERO else TRANSMISSION
                elif event == _SCATTER:
                    lobe_density = phase(peek_f32(medium, D.forward), dot(direction, wi))
                    value = (lobe_density, lobe_density, lobe_density)
                else:
                    cosine = dot(wi, n)
                    if cosine > _ZERO:
                        lobe_density = cosine * INV_PI
                        value = (lobe_density, lobe_density, lobe_density)
                        start = leave_surface(here, n, clearance)
                brought = mul(beta, value)
                if max_component(brought) > _ZERO:
                    brought = mul(brought, aimed_radiance(scene, light_sample))
                if max_component(brought) > _ZERO:
                    weight = _ONE / aimed
                    if peek_i32(light_sample, Q.is_point) == 0:
                        weight *= power_heuristic(aimed, lobe_density)
                    brought = scale(brought, weight)
                    far = peek_f32(light_sample, Q.distance)
                    if far < FAR and event == _SURFACE:
                        # The start has been lifted: the ray must still end at the point on the light.
                        wi = sub(add(here, scale(wi, far)), start)
                        far = math.sqrt(dot(wi, wi))
                        wi = scale(wi, _ONE / far)
                    through = _WHITE
                    if ground_distance(settings, start, wi) < far:
                        through = _BLACK
                    elif receives and peek_i32(light_sample, Q.casts) != 0:
                        count(scratch, SHADOW_RAYS)
                        _record(scratch, start, wi, -far, SHADOW_RAY)
                        through = light_through(scene, tree, ray, medium, start, wi, far)
                    arrived = mul(brought, through)
                    radiance = add(radiance, arrived)
                    if has_layers:
                        if bounce == 0:
                            deposit_shadow(result, brought, arrived)
                        else:
                            share, kind = first_share, first_kind
                        deposit(result, arrived, peek_i32(light_sample, Q.group), bounce == 0, share, kind)
            last_near = peek_f32(light_sample, Q.local_chance)

        # The next ray.
        segment_start = here
        last_point, last_normal, last_on_surface, last_links = here, n, on_surface, links
        share, kind = _WHITE, DIFFUSE
        if event == _SURFACE:
            decision, wi = sample(
                surface,
                wo,
                draw(point, mask, x, y, pixel_key, key, dimension + _LOBE_CHOICE),
                draw(point, mask, x, y, pixel_key, key, dimension + _LOBE_POINT),
                draw(point, mask, x, y, pixel_key, key, dimension + _LOBE_POINT + 1),
                films,
            )
            if decision == ENTERED:
                weight = peek_f32(surface, U.subsurface) * peek_f32(surface, U.under_fuzz)
                weight /= peek_f32(surface, U.chance_subsurface)
                enters = mul(peek_vector(surface, U.under_coat), peek_vector(surface, U.diffuse_left))
                beta = mul(beta, scale(enters, weight))
                beta = mul(beta, walk_under(scene, tree, ray, hit, key, _WALK * (bounce + 1)))
                if max_component(beta) <= _ZERO:
                    break
                # It comes out like from a diffuse wall: aimed and scattered there, in the next turn of the loop.
                last_normal = neg(peek_vector(hit, H.geometric))
                origin = peek_vector(hit, H.position)
                leaves_walk = True
            else:
                if wi[2] == _ZERO:
                    break
                value, lobe_density = evaluate(surface, wo, wi, films)
                if lobe_density <= _ZERO:
                    break
                direction = normalize(to_world(wi, tangent, bitangent, n))
                geometric = peek_vector(hit, H.geometric)
                side = dot(direction, geometric)
                if side * wi[2] <= _ZERO:
                    break
                beta = mul(beta, scale(value, _ONE / lobe_density))
                density = lobe_density if aims_at_light else _ZERO
                origin = leave_hit(hit, side < _ZERO)
                if has_layers and bounce == 0:
                    share = _diffuse_share(surface, value)
                    kind = SPECULAR if side > _ZERO else TRANSMISSION
                if side < _ZERO:
                    cross_boundary(scene, medium, hit)
                if filtered_alpha > _ZERO and (
                    peek_f32(surface, U.alpha_x) > _WIDE or max_component(peek_vector(surface, U.diffuse_part)) > _ZERO
                ):
                    least_alpha = filtered_alpha
        elif event == _SCATTER:
            direction, density = sample_phase(
                direction,
                peek_f32(medium, D.forward),
                draw(point, mask, x, y, pixel_key, key, dimension + _PHASE_POINT),
                draw(point, mask, x, y, pixel_key, key, dimension + _PHASE_POINT + 1),
            )
            origin = here
            least_alpha = filtered_alpha
        else:
            wi = sample_cosine(
                draw(point, mask, x, y, pixel_key, key, dimension + _LOBE_POINT),
                draw(point, mask, x, y, pixel_key, key, dimension + _LOBE_POINT + 1),
            )
            density = wi[2] * INV_PI
            tangent, bitangent = frame_around(n)
            direction = to_world(wi, tangent, bitangent, n)
            origin = leave_surface(here, n, clearance)
            least_alpha = filtered_alpha
        if has_layers and bounce == 0:
            first_share, first_kind = share, kind
        bounce += 1

        brightest = max_component(beta)
        if not brightest > _ZERO:
            break
        if bounce > _ROULETTE_FROM and not is_catching:
            survival = min(brightest, _ONE if bounce < _CUT_FROM else f32(0.95))
            if draw(point, mask, x, y, pixel_key, key, dimension + _ROULETTE) >= survival:
                break
            beta = scale(beta, _ONE / survival)

    if is_catching:
        alpha = _ONE - luminance(radiance)
        radiance = mul(radiance, backdrop)
    store_vector(result, R.radiance, radiance)
    store_f32(result, R.alpha, alpha)
    if not is_catching:
        backdrop = _WHITE
    store_vector(result, R.albedo, albedo)
    store_vector(result, R.normal, normal)
    if has_layers:
        store_vector(result, R.sums + POSITION, position)
    store_f32(result, R.depth, hit_depth)
    store_i32(result, R.part, hit_part)
    store_i32(result, R.material, hit_material)
    return backdrop
