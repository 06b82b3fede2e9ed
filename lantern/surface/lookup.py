"""From a row of the material table and a texture coordinate to the surface record at a point."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, load_vector, store_f32, store_i32, store_vector
from lantern.kernel.vectors import EXACT, SMALL, mul
from lantern.surface.ggx import SMALLEST_ALPHA
from lantern.surface.material import BLEND, MASK, MATERIAL, OPAQUE
from lantern.surface.record import HAS_COAT_FRAME, SURFACE
from lantern.surface.textures import fetch, srgb_to_linear

M, S = MATERIAL.slots, SURFACE.slots
MATERIAL_WIDTH = MATERIAL.width
_LEAST_ALPHA = f32(SMALLEST_ALPHA)
_ZERO, _ONE = f32(0.0), f32(1.0)


@njit(**SMALL)
def _linear(t):
    return srgb_to_linear(t[0]), srgb_to_linear(t[1]), srgb_to_linear(t[2])


@njit(**EXACT)
def emission_at(materials, textures, bindings, texels, material, u, v):
    """Emitted luminance rgb [cd/m²] of a material at mesh coordinates."""
    row = material * MATERIAL_WIDTH
    emission = load_vector(materials, row + M.emission)
    binding = load_i32(materials, row + M.emission_binding)
    if binding >= 0:
        emission = mul(emission, _linear(fetch(texels, textures, bindings, binding, u, v)))
    return emission


@njit(**EXACT)
def opacity_at(materials, textures, bindings, texels, material, u, v):
    """Share [0, 1] of rays that a material stops at mesh coordinates."""
    row = material * MATERIAL_WIDTH
    opacity = load_f32(materials, row + M.opacity)
    mode = load_i32(materials, row + M.alpha_mode)
    binding = load_i32(materials, row + M.base_color_binding)
    if mode != OPAQUE and binding >= 0:
        alpha = fetch(texels, textures, bindings, binding, u, v)[3]
        if mode == MASK:
            opacity *= _ONE if alpha >= load_f32(materials, row + M.alpha_cutoff) else _ZERO
        elif mode == BLEND:
            opacity *= alpha
    return opacity


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


@njit(**EXACT)
def write_surface(s, materials, textures, bindings, texels, material, u, v, entering, eta, least_alpha):
    """Fill the parameters of the record at `s` for mesh coordinates (u, v), seen from outside (`entering`) or inside.

    `eta` is n_beyond / n_here for refracted rays; no lobe of the base is narrower than `least_alpha`. The coat's
    frame is left as the base's.
    """
    row = material * MATERIAL_WIDTH
    base = load_vector(materials, row + M.base_color)
    metalness = load_f32(materials, row + M.metalness)
    roughness = load_f32(materials, row + M.roughness)
    transmission = load_f32(materials, row + M.transmission)
    binding = load_i32(materials, row + M.base_color_binding)
    if binding >= 0:
        base = mul(base, _linear(fetch(texels, textures, bindings, binding, u, v)))
    binding = load_i32(materials, row + M.metallic_roughness_binding)
    if binding >= 0:
        t = fetch(texels, textures, bindings, binding, u, v)
        roughness *= t[1]
        metalness *= t[2]
    binding = load_i32(materials, row + M.transmission_binding)
    if binding >= 0:
        transmission *= fetch(texels, textures, bindings, binding, u, v)[0]

    store_i32(s, S.lobes, 0)
    store_vector(s, S.base_color, base)
    store_f32(s, S.metalness, metalness)
    store_f32(s, S.transmission, transmission)
    store_i32(s, S.entering, 1 if entering else 0)
    store_i32(s, S.thin_walled, load_i32(materials, row + M.thin_walled))
    store_i32(s, S.film, load_i32(materials, row + M.film))
    store_f32(s, S.specular_weight, load_f32(materials, row + M.specular_weight))
    store_vector(s, S.specular_color, load_vector(materials, row + M.specular_color))
    store_f32(s, S.diffuse_roughness, load_f32(materials, row + M.diffuse_roughness))
    if transmission > _ZERO:
        store_vector(s, S.tint, load_vector(materials, row + M.tint))
    subsurface = load_f32(materials, row + M.subsurface)
    store_f32(s, S.subsurface, subsurface)
    if subsurface > _ZERO:
        store_vector(s, S.subsurface_color, load_vector(materials, row + M.subsurface_color))
        store_f32(s, S.subsurface_forward, load_f32(materials, row + M.subsurface_forward))
    fuzz = load_f32(materials, row + M.fuzz) if entering else _ZERO
    store_f32(s, S.fuzz, fuzz)
    if fuzz > _ZERO:
        store_vector(s, S.fuzz_color, load_vector(materials, row + M.fuzz_color))
        store_f32(s, S.fuzz_roughness, load_f32(materials, row + M.fuzz_roughness))

    ratio = load_f32(materials, row + M.ior)
    coat = load_f32(materials, row + M.coat) if entering else _ZERO
    store_f32(s, S.coat, coat)
    if coat > _ZERO:
        coat_ior = load_f32(materials, row + M.coat_ior)
        coat_roughness = load_f32(materials, row + M.coat_roughness)
        store_f32(s, S.coat_ior, coat_ior)
        store_vector(s, S.coat_color, load_vector(materials, row + M.coat_color))
        store_f32(s, S.coat_darkening, load_f32(materials, row + M.coat_darkening))
        x, y = _split_roughness(coat_roughness, load_f32(materials, row + M.coat_anisotropy))
        _store_roughness(s, x, y, S.coat_roughness, S.coat_alpha_x, S.coat_alpha_y)
        # Section 3.10: the base is met from inside the coat, and its roughness is seen through the coat's.
        ratio /= _ONE + (coat_ior - _ONE) * coat
        r2, c2 = roughness * roughness, coat_roughness * coat_roughness
        together = math.sqrt(math.sqrt(min(r2 * r2 + f32(2.0) * c2 * c2, _ONE)))
        roughness += (together - roughness) * coat
    # An interface to a thinner medium would reflect totally; section 3.10.1 turns it round.
    ratio = max(ratio if ratio >= _ONE else _ONE / ratio, f32(1.001))
    store_f32(s, S.ratio, ratio)
    store_f32(s, S.eta, eta)
    x, y = _split_roughness(roughness, load_f32(materials, row + M.anisotropy))
    _store_roughness(s, max(x, least_alpha), max(y, least_alpha), S.roughness, S.alpha_x, S.alpha_y)


@njit(**SMALL)
def set_coat_frame(s, x, y, z):
    """Give the coat a normal of its own: its frame in the local frame of the base."""
    store_i32(s, S.lobes, HAS_COAT_FRAME)
    store_vector(s, S.coat_x, x)
    store_vector(s, S.coat_y, y)
    store_vector(s, S.coat_z, z)
