"""Surfaces of MaterialX 1.39 as values of the parameters of an OpenPBR surface.

In: a surface node, what reckons its inputs. Out: values by OpenPBR's names. Called by `reading`. OpenPBR Surface 1.1;
Standard Surface 1.0.1; glTF PBR 2.0.1; "UsdPreviewSurface Specification" 2.6.
"""

from collections.abc import Callable

import MaterialX as mx
import numpy as np

from lantern.assets.materialx.values import Constant, Image, Reckoner, Value
from lantern.assets.materialx.words import NORMALS, surface_inputs
from lantern.assets.readers.usd.materialx import STANDARD_AS_OPENPBR

Values = dict[str, Value]
_GLTF = {
    "base_color": "base_color", "metallic": "base_metalness", "roughness": "specular_roughness",
    "transmission": "transmission_weight", "specular": "specular_weight", "specular_color": "specular_color",
    "ior": "specular_ior", "clearcoat": "coat_weight", "clearcoat_roughness": "coat_roughness",
    "alpha": "geometry_opacity", "normal": "geometry_normal", "clearcoat_normal": "geometry_coat_normal",
    "attenuation_color": "transmission_color", "attenuation_distance": "transmission_depth",
    "sheen_roughness": "fuzz_roughness", "iridescence": "thin_film_weight", "iridescence_ior": "thin_film_ior",
}  # fmt: skip
_PREVIEW = {
    "diffuseColor": "base_color", "metallic": "base_metalness", "roughness": "specular_roughness",
    "clearcoat": "coat_weight", "clearcoatRoughness": "coat_roughness", "opacity": "geometry_opacity",
    "ior": "specular_ior", "normal": "geometry_normal",
}  # fmt: skip


def _named(reckoner: Reckoner, node: mx.Node, names: dict[str, str]) -> Values:
    found = {ours: reckoner.of_input(node, theirs) for theirs, ours in names.items()}
    return {name: value for name, value in found.items() if value is not None}


def _openpbr(reckoner: Reckoner, node: mx.Node) -> Values:
    return _named(reckoner, node, {name: name for name in (*surface_inputs(), *NORMALS)})


def _glowing(values: Values, glow: Value | None, strength: float) -> None:
    """Colour and strength of light: of a constant the brightest channel is in the strength."""
    if isinstance(glow, Constant):
        color = np.resize(glow.value, 3)
        most = float(color.max())
        if most > 0 and strength > 0:
            values["emission_color"] = Constant(tuple(float(v) for v in color / most))
            values["emission_luminance"] = Constant((most * strength,))
    elif glow is not None:
        values["emission_color"], values["emission_luminance"] = glow, Constant((strength,))


def _number(value: Value | None, otherwise: float) -> float:
    return value.value[0] if isinstance(value, Constant) else otherwise


def _standard(reckoner: Reckoner, node: mx.Node) -> Values:
    values = {"base_color": Constant((1.0, 1.0, 1.0)), "base_weight": Constant((0.8,)),
              "specular_roughness": Constant((0.2,))} | _named(reckoner, node, STANDARD_AS_OPENPBR)  # fmt: skip
    values |= _named(reckoner, node, {"normal": "geometry_normal", "coat_normal": "geometry_coat_normal"})
    values["emission_luminance"] = Constant((_number(reckoner.of_input(node, "emission"), 0.0),))
    nanometres = _number(reckoner.of_input(node, "thin_film_thickness"), 0.0)
    if nanometres > 0:
        ior = _number(reckoner.of_input(node, "thin_film_IOR"), 1.5)
        values |= {"thin_film_weight": Constant((1.0,)), "thin_film_thickness": Constant((nanometres / 1000,)),
                   "thin_film_ior": Constant((ior,))}  # fmt: skip
    opacity = reckoner.of_input(node, "opacity")
    if isinstance(opacity, Constant):
        values["geometry_opacity"] = Constant((float(np.mean(opacity.value)),))
    elif opacity is not None:
        values["geometry_opacity"] = opacity
    return values


def _gltf(reckoner: Reckoner, node: mx.Node) -> Values:
    start = {
        "base_color": (1.0, 1.0, 1.0), "base_metalness": (1.0,), "specular_roughness": (1.0,), "coat_ior": (1.5,),
    }  # fmt: skip
    values: Values = {name: Constant(value) for name, value in start.items()} | _named(reckoner, node, _GLTF)
    _glowing(values, reckoner.of_input(node, "emissive"), _number(reckoner.of_input(node, "emissive_strength"), 1.0))
    sheen = reckoner.of_input(node, "sheen_color")
    if isinstance(sheen, Constant) and max(sheen.value) > 0:
        most = max(sheen.value)
        values |= {"fuzz_weight": Constant((most,)), "fuzz_color": Constant(tuple(c / most for c in sheen.value))}
    film = _number(reckoner.of_input(node, "iridescence_thickness"), 100.0)
    values["thin_film_thickness"] = Constant((film / 1000,))
    dispersion = _number(reckoner.of_input(node, "dispersion"), 0.0)
    if dispersion > 0:
        values |= {"transmission_dispersion_scale": Constant((1.0,)),
                   "transmission_dispersion_abbe_number": Constant((20 / dispersion,))}  # fmt: skip
    values["geometry_thin_walled"] = Constant((float(_number(reckoner.of_input(node, "thickness"), 0.0) <= 0),))
    return values


def _preview(reckoner: Reckoner, node: mx.Node) -> Values:
    start = {"base_color": (0.18, 0.18, 0.18), "specular_roughness": (0.5,), "coat_ior": (1.5,),
             "coat_roughness": (0.01,)}  # fmt: skip
    values: Values = {name: Constant(value) for name, value in start.items()} | _named(reckoner, node, _PREVIEW)
    _glowing(values, reckoner.of_input(node, "emissiveColor"), 1.0)
    if _number(reckoner.of_input(node, "useSpecularWorkflow"), 0.0) > 0:
        values["base_metalness"] = Constant((0.0,))
        specular = reckoner.of_input(node, "specularColor")
        values["specular_color"] = specular if isinstance(specular, Constant | Image) else Constant((0.0, 0.0, 0.0))
    return values


SURFACES: dict[str, Callable[[Reckoner, mx.Node], Values]] = {
    "open_pbr_surface": _openpbr, "standard_surface": _standard, "gltf_pbr": _gltf, "UsdPreviewSurface": _preview,
}  # fmt: skip
"""By the category of the node."""
