"""From a row of the material table and a texture coordinate to the surface at a point."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import Table, load_f32, load_i32
from lantern.kernel.vectors import SMALL
from lantern.surface.ggx import SMALLEST_ALPHA
from lantern.surface.openpbr import Surface
from lantern.surface.textures import fetch, srgb_to_linear

MATERIAL = Table(
    "material",
    [
        ("base_color", "f", 3),
        ("metalness", "f", 1),
        ("edge_color", "f", 3),
        ("roughness", "f", 1),
        ("ior", "f", 1),
        ("transmission", "f", 1),
        ("transmission_color", "f", 3),
        ("absorption", "f", 3),  # 1/m
        ("coat", "f", 1),
        ("coat_roughness", "f", 1),
        ("coat_ior", "f", 1),
        ("coat_color", "f", 3),
        ("emission", "f", 3),  # cd/m²
        ("normal_scale", "f", 1),
        ("thin_walled", "i", 1),
        ("base_color_binding", "i", 1),
        ("metallic_roughness_binding", "i", 1),
        ("normal_binding", "i", 1),
        ("emission_binding", "i", 1),
        ("transmission_binding", "i", 1),
    ],
)
MATERIAL_WIDTH = MATERIAL.width
ABSORPTION, TRANSMISSION, THIN_WALLED = (MATERIAL.slot(n) for n in ("absorption", "transmission", "thin_walled"))
NORMAL_SCALE, NORMAL_BINDING = MATERIAL.slot("normal_scale"), MATERIAL.slot("normal_binding")
_BASE, _METALNESS, _EDGE = (MATERIAL.slot(n) for n in ("base_color", "metalness", "edge_color"))
_ROUGHNESS, _IOR, _TINT = (MATERIAL.slot(n) for n in ("roughness", "ior", "transmission_color"))
_COAT, _COAT_ROUGHNESS = MATERIAL.slot("coat"), MATERIAL.slot("coat_roughness")
_COAT_IOR, _COAT_COLOR, _EMISSION = (MATERIAL.slot(n) for n in ("coat_ior", "coat_color", "emission"))
_BASE_MAP, _METAL_ROUGH_MAP = MATERIAL.slot("base_color_binding"), MATERIAL.slot("metallic_roughness_binding")
_EMISSION_MAP, _TRANSMISSION_MAP = MATERIAL.slot("emission_binding"), MATERIAL.slot("transmission_binding")


@njit(**SMALL)
def _color(materials, slot):
    return load_f32(materials, slot), load_f32(materials, slot + 1), load_f32(materials, slot + 2)


@njit(**SMALL)
def surface_at(materials, textures, bindings, texels, material, u, v, entering):
    """The `Surface` of a material row at mesh coordinates (u, v), seen from outside (`entering`) or inside."""
    row = material * MATERIAL_WIDTH
    base = _color(materials, row + _BASE)
    metalness = load_f32(materials, row + _METALNESS)
    roughness = load_f32(materials, row + _ROUGHNESS)
    transmission = load_f32(materials, row + TRANSMISSION)
    emission = _color(materials, row + _EMISSION)

    binding = load_i32(materials, row + _BASE_MAP)
    if binding >= 0:
        t = fetch(texels, textures, bindings, binding, u, v)
        base = (base[0] * srgb_to_linear(t[0]), base[1] * srgb_to_linear(t[1]), base[2] * srgb_to_linear(t[2]))
    binding = load_i32(materials, row + _METAL_ROUGH_MAP)
    if binding >= 0:
        t = fetch(texels, textures, bindings, binding, u, v)
        roughness *= t[1]
        metalness *= t[2]
    binding = load_i32(materials, row + _TRANSMISSION_MAP)
    if binding >= 0:
        transmission *= fetch(texels, textures, bindings, binding, u, v)[0]
    binding = load_i32(materials, row + _EMISSION_MAP)
    if binding >= 0:
        t = fetch(texels, textures, bindings, binding, u, v)
        emission = (
            emission[0] * srgb_to_linear(t[0]),
            emission[1] * srgb_to_linear(t[1]),
            emission[2] * srgb_to_linear(t[2]),
        )

    coat = load_f32(materials, row + _COAT) if entering else f32(0.0)
    coat_roughness = load_f32(materials, row + _COAT_ROUGHNESS)
    alpha = max(roughness * roughness, f32(SMALLEST_ALPHA))
    coat_alpha = max(coat_roughness * coat_roughness, f32(SMALLEST_ALPHA))
    return Surface(
        base,
        metalness,
        _color(materials, row + _EDGE),
        math.sqrt(alpha),
        alpha,
        load_f32(materials, row + _IOR),
        entering,
        transmission,
        _color(materials, row + _TINT),
        load_i32(materials, row + THIN_WALLED) != 0,
        coat,
        math.sqrt(coat_alpha),
        coat_alpha,
        load_f32(materials, row + _COAT_IOR),
        _color(materials, row + _COAT_COLOR),
        emission,
    )
