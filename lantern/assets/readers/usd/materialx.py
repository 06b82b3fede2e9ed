"""Surfaces of MaterialX 1.39 as OpenPBR fields (OpenPBR Surface 1.1, Standard Surface 1.0.1, glTF PBR 2.0.1).

In: the inputs of a surface. Out: fields of a `Material`. Called by `materials`.
"""

from collections.abc import Callable
from typing import Any

from pydantic.fields import FieldInfo

from lantern.assets.readers.usd.inputs import Inputs
from lantern.scene.document import Material

_MAPPED = ("base_color", "specular_roughness", "base_metalness")
STANDARD_AS_OPENPBR = {
    "base": "base_weight", "base_color": "base_color", "diffuse_roughness": "base_diffuse_roughness",
    "metalness": "base_metalness", "specular": "specular_weight", "specular_color": "specular_color",
    "specular_roughness": "specular_roughness", "specular_IOR": "specular_ior",
    "specular_anisotropy": "specular_roughness_anisotropy", "transmission": "transmission_weight",
    "transmission_color": "transmission_color", "transmission_depth": "transmission_depth",
    "transmission_scatter": "transmission_scatter", "subsurface": "subsurface_weight",
    "subsurface_color": "subsurface_color", "sheen": "fuzz_weight", "sheen_color": "fuzz_color",
    "sheen_roughness": "fuzz_roughness", "coat": "coat_weight", "coat_color": "coat_color",
    "coat_roughness": "coat_roughness", "coat_anisotropy": "coat_roughness_anisotropy", "coat_IOR": "coat_ior",
    "emission_color": "emission_color", "thin_walled": "geometry_thin_walled",
}  # fmt: skip
"""Of Standard Surface, what OpenPBR calls otherwise."""


def _openpbr(given: Inputs) -> dict[str, Any]:
    return _fields(given, {name: name for name in Material.model_fields})


def _standard(given: Inputs) -> dict[str, Any]:
    fields = _fields(given, STANDARD_AS_OPENPBR)
    fields["emission_luminance"] = given.number("emission", 0.0, 0.0, 1e6)
    fields.setdefault("specular_roughness", 0.2)
    nanometres = given.number("thin_film_thickness", 0.0, 0.0, 10_000.0)
    if nanometres > 0:
        ior = given.number("thin_film_IOR", 1.5, 1.0, 3.0)
        fields |= {"thin_film_weight": 1.0, "thin_film_thickness": nanometres / 1000, "thin_film_ior": ior}
    opacity = given.color("opacity", (1.0, 1.0, 1.0))
    return fields | {"geometry_opacity": sum(opacity) / 3}


def _gltf(given: Inputs) -> dict[str, Any]:
    names = {
        "base_color": "base_color", "metallic": "base_metalness", "roughness": "specular_roughness",
        "transmission": "transmission_weight", "ior": "specular_ior", "clearcoat": "coat_weight",
        "clearcoat_roughness": "coat_roughness", "alpha": "geometry_opacity",
    }  # fmt: skip
    fields = {"base_metalness": 1.0, "specular_roughness": 1.0, "coat_ior": 1.5} | _fields(given, names)
    glow = given.color("emissive", (0.0, 0.0, 0.0))
    if max(glow) > 0:
        fields |= {"emission_color": glow, "emission_luminance": given.number("emissive_strength", 1.0, 0.0, 1e6)}
    return fields


SURFACES: dict[str, Callable[[Inputs], dict[str, Any]]] = {
    "ND_open_pbr_surface_surfaceshader": _openpbr,
    "ND_standard_surface_surfaceshader": _standard,
    "ND_gltf_pbr_surfaceshader": _gltf,
}
"""By the name of the node's definition."""


def _range_of(field: FieldInfo) -> tuple[float, float]:
    """Least and greatest number of a field of a material."""
    low = next(limit.ge for limit in field.metadata if hasattr(limit, "ge"))
    high = next(limit.le for limit in field.metadata if hasattr(limit, "le"))
    return float(low), float(high)


def _fields(given: Inputs, names: dict[str, str]) -> dict[str, Any]:
    """Inputs that are said, as fields of a material, within what those may be; images for the three that have maps."""
    fields: dict[str, Any] = {}
    for theirs, ours in names.items():
        said = Material.model_fields.get(ours)
        if said is None or not given.has(theirs):
            continue
        default = said.default
        if isinstance(default, bool):
            fields[ours] = given.flag(theirs)
        elif isinstance(default, tuple):
            fields[ours] = given.color(theirs, default)
        elif isinstance(default, float):
            low, high = _range_of(said)
            fields[ours] = given.number(theirs, default, low, high)
    found = {ours: given.laid(theirs) for theirs, ours in names.items() if ours in _MAPPED}
    color, rough, metal = (found.get(name) for name in _MAPPED)
    fields["base_color_texture"] = given.textures.color(color, None)
    fields["metallic_roughness_texture"] = given.textures.surface(rough, metal)
    fields["normal_texture"] = given.textures.normals(given.laid("geometry_normal") or given.laid("normal"))
    fields |= {"base_color": (1.0, 1.0, 1.0)} if color else {}
    fields |= {"specular_roughness": 1.0} if rough else {}
    fields |= {"base_metalness": 1.0} if metal else {}
    return fields
