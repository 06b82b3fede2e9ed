"""From a row of the material table and a POINT of a mesh to the surface record there."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import (
    load_i32,
    load_u64,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, max_component, mul, scale
from lantern.pattern.images import fetch
from lantern.pattern.material import MASK, MATERIAL, MATERIAL_WIDTH, OPAQUE
from lantern.pattern.program import copy_row, results_of, run_program
from lantern.pattern.tables import POINT, SHADING
from lantern.surface.fresnel import weighted_ior
from lantern.surface.ggx import SMALLEST_ALPHA
from lantern.surface.prepare import layers_above
from lantern.surface.record import HAS_COAT_FRAME, SURFACE

M, S, T, P = MATERIAL.slots, SURFACE.slots, SHADING.slots, POINT.slots
_LEAST_ALPHA = f32(SMALLEST_ALPHA)
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK = (_ZERO, _ZERO, _ZERO)


@njit(**SMALL)
def row_after(tables, material, point, first, count):
    """(address, offset) of a material's row, or of the copy of it that a program has brought to a POINT."""
    materials, row = load_u64(tables, T.materials), material * MATERIAL_WIDTH
    length = load_i32(materials, row + count)
    if length == 0:
        return materials, row
    copy_row(results_of(point), materials, row)
    run_program(tables, load_i32(materials, row + first), length, point)
    return results_of(point), row - row


@njit(**EXACT)
def emission_at(tables, room, material, point, cosine, is_front):
    """Luminance rgb [cd/m²] that leaves a material at |cos θ| from its geometric normal, on its front or its back.

    Light of a surface comes from beneath its coat and fuzz (OpenPBR 1.1, section 3.2). `room` is the address of a
    SURFACE record to work in.
    """
    materials, row = row_after(tables, material, point, M.emission_first, M.emission_count)
    emission = peek_vector(materials, row + M.emission)
    if max_component(emission) <= _ZERO or not (is_front or peek_i32(materials, row + M.two_sided) != 0):
        return _BLACK
    binding = peek_i32(materials, row + M.emission_binding)
    if binding >= 0:
        t = fetch(tables, binding, point)
        emission = mul(emission, (t[0], t[1], t[2]))
    if peek_i32(materials, row + M.covered) == 0:
        return emission
    write_surface(room, tables, material, point, is_front, _ONE, _ZERO)
    layers_above(room, (math.sqrt(max(_ONE - cosine * cosine, _ZERO)), _ZERO, cosine), load_u64(tables, T.albedos))
    return scale(mul(emission, peek_vector(room, S.under_coat)), peek_f32(room, S.under_fuzz))


@njit(**EXACT)
def opacity_at(tables, material, point):
    """Share [0, 1] of rays that a material stops at a point."""
    materials, row = row_after(tables, material, point, M.opacity_first, M.opacity_count)
    opacity = peek_f32(materials, row + M.opacity)
    mode = peek_i32(materials, row + M.alpha_mode)
    if mode == OPAQUE:
        return opacity
    binding = peek_i32(materials, row + M.opacity_binding)
    if binding >= 0:
        opacity *= fetch(tables, binding, point)[3]
    if peek_i32(materials, row + M.vertex_alpha) != 0:
        opacity *= peek_f32(point, P.color + 3)
    if mode == MASK:
        return _ONE if opacity >= peek_f32(materials, row + M.alpha_cutoff) else _ZERO
    return min(max(opacity, _ZERO), _ONE)


@njit(**SMALL)
def _split_roughness(roughness, anisotropy):
    """(αx, αy) of OpenPBR 1.1, section 3.4: the mean square stays that of the isotropic lobe."""
    alpha = roughness * roughness
    if anisotropy <= _ZERO:
        return max(alpha, _LEAST_ALPHA), max(alpha, _LEAST_ALPHA)
    narrow = _ONE - anisotropy
    wide = alpha * math.sqrt(f32(2.0) / (_ONE + narrow * narrow))
    return max(wide, _LEAST_ALPHA), max(wide * narrow, _LEAST_ALPHA)


@njit(**SMALL)
def _store_roughness(s, alpha_x, alpha_y, axis, x, y):
    store_f32(s, x, alpha_x)
    store_f32(s, y, alpha_y)
    store_f32(s, axis, math.sqrt(math.sqrt(f32(0.5) * (alpha_x * alpha_x + alpha_y * alpha_y))))


@njit(**SMALL)
def base_color_at(tables, materials, row, point):
    """Base colour with its image and the colours of the vertices."""
    base = peek_vector(materials, row + M.base_color)
    binding = peek_i32(materials, row + M.base_color_binding)
    if binding >= 0:
        t = fetch(tables, binding, point)
        base = mul(base, (t[0], t[1], t[2]))
    if peek_i32(materials, row + M.vertex_colors) != 0:
        base = mul(base, peek_vector(point, P.color))
    return base


@njit(**SMALL)
def _write_transmission(s, tables, materials, row, point):
    """Transmission and the tint of what passes the boundary."""
    transmission = peek_f32(materials, row + M.transmission)
    binding = peek_i32(materials, row + M.transmission_binding)
    if binding >= 0:
        transmission *= fetch(tables, binding, point)[0]
    store_f32(s, S.transmission, transmission)
    if transmission > _ZERO:
        tint = peek_vector(materials, row + M.tint)
        binding = peek_i32(materials, row + M.transmission_tint_binding)
        if binding >= 0:
            t = fetch(tables, binding, point)
            tint = mul(tint, (t[0], t[1], t[2]))
        store_vector(s, S.tint, tint)


@njit(**SMALL)
def _write_subsurface(s, materials, row):
    subsurface = peek_f32(materials, row + M.subsurface)
    store_f32(s, S.subsurface, subsurface)
    if subsurface > _ZERO:
        store_vector(s, S.subsurface_color, peek_vector(materials, row + M.subsurface_color))
        store_f32(s, S.subsurface_forward, peek_f32(materials, row + M.subsurface_forward))


@njit(**SMALL)
def _write_coat(s, materials, row, coat):
    """Coat parameters; returns the coat's (index of refraction, roughness)."""
    ior, roughness = peek_f32(materials, row + M.coat_ior), peek_f32(materials, row + M.coat_roughness)
    store_f32(s, S.coat_ior, ior)
    store_vector(s, S.coat_color, peek_vector(materials, row + M.coat_color))
    store_f32(s, S.coat_darkening, peek_f32(materials, row + M.coat_darkening))
    x, y = _split_roughness(roughness, peek_f32(materials, row + M.coat_anisotropy))
    _store_roughness(s, x, y, S.coat_roughness, S.coat_alpha_x, S.coat_alpha_y)
    return ior, roughness


@njit(**EXACT)
def write_surface(s, tables, material, point, is_front, eta, least_alpha):
    """Fill the parameters of the record at `s` for a POINT, seen from the front or from the back.

    `eta` is n_beyond / n_here for refracted rays; no lobe of the base is narrower than `least_alpha`. The coat's
    frame is left as the base's. Coat and fuzz lie on the front, and on the back of what is two-sided and encloses no
    volume.
    """
    materials, row = row_after(tables, material, point, M.surface_first, M.surface_count)
    metalness, roughness = peek_f32(materials, row + M.metalness), peek_f32(materials, row + M.roughness)
    binding = peek_i32(materials, row + M.metallic_roughness_binding)
    if binding >= 0:
        t = fetch(tables, binding, point)
        roughness *= t[1]
        metalness *= t[2]
    encloses = peek_i32(materials, row + M.interior) != 0
    has_layers = is_front or (not encloses and peek_i32(materials, row + M.two_sided) != 0)

    store_i32(s, S.lobes, 0)
    store_vector(s, S.base_color, base_color_at(tables, materials, row, point))
    store_f32(s, S.metalness, metalness)
    store_i32(s, S.entering, 1 if is_front or not encloses else 0)
    store_i32(s, S.thin_walled, peek_i32(materials, row + M.thin_walled))
    store_i32(s, S.film, peek_i32(materials, row + M.film))
    store_f32(s, S.specular_weight, peek_f32(materials, row + M.specular_weight))
    store_vector(s, S.specular_color, peek_vector(materials, row + M.specular_color))
    store_f32(s, S.diffuse_roughness, peek_f32(materials, row + M.diffuse_roughness))
    _write_transmission(s, tables, materials, row, point)
    _write_subsurface(s, materials, row)
    fuzz = peek_f32(materials, row + M.fuzz) if has_layers else _ZERO
    store_f32(s, S.fuzz, fuzz)
    if fuzz > _ZERO:
        store_vector(s, S.fuzz_color, peek_vector(materials, row + M.fuzz_color))
        store_f32(s, S.fuzz_roughness, peek_f32(materials, row + M.fuzz_roughness))

    ratio = peek_f32(materials, row + M.ior)
    if peek_i32(materials, row + M.weighs) != 0:
        ratio = weighted_ior(peek_f32(materials, row + M.own_ior), peek_f32(materials, row + M.specular_weight))
    coat = peek_f32(materials, row + M.coat) if has_layers else _ZERO
    store_f32(s, S.coat, coat)
    if coat > _ZERO:
        coat_ior, coat_roughness = _write_coat(s, materials, row, coat)
        # Section 3.10: the base is met from inside the coat, and its roughness is seen through the coat's.
        ratio /= _ONE + (coat_ior - _ONE) * coat
        r2, c2 = roughness * roughness, coat_roughness * coat_roughness
        together = math.sqrt(math.sqrt(min(r2 * r2 + f32(2.0) * c2 * c2, _ONE)))
        roughness += (together - roughness) * coat
    # An interface to a thinner medium would reflect totally; section 3.10.1 turns it round.
    ratio = max(ratio if ratio >= _ONE else _ONE / ratio, f32(1.001))
    store_f32(s, S.ratio, ratio)
    store_f32(s, S.eta, eta)
    x, y = _split_roughness(roughness, peek_f32(materials, row + M.anisotropy))
    _store_roughness(s, max(x, least_alpha), max(y, least_alpha), S.roughness, S.alpha_x, S.alpha_y)


@njit(**SMALL)
def set_coat_frame(s, x, y, z):
    """Give the coat a normal of its own: its frame in the local frame of the base."""
    store_i32(s, S.lobes, HAS_COAT_FRAME)
    store_vector(s, S.coat_x, x)
    store_vector(s, S.coat_y, y)
    store_vector(s, S.coat_z, z)
