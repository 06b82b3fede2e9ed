"""MTL materials as OpenPBR materials, with their images.

In: what an MTL file says, and the files that came with it. Out: materials and textures of an `ImportedAsset`. Called by
`asset`. The older statements describe highlights and not surfaces: of them the nearest is made.
"""

import math
from typing import Any

import numpy as np

from lantern.assets.images import ImageProblem, ImageStore, decode_image
from lantern.assets.imported import ImportedAsset
from lantern.assets.packing import height_to_normals, is_normal_map, lightness, stacked
from lantern.assets.readers.obj.mtl import MapStatement, MtlMaterial
from lantern.assets.source import Neighbours
from lantern.assets.textures import CLAMP, REPEAT, Texture
from lantern.scene.document import Material
from lantern.scene.texture_use import TextureUse

_SEE_THROUGH = (4, 6, 7, 9)
"""Illumination models of glass."""
_METAL_DIFFUSE, _METAL_SPECULAR = 0.04, 0.2
"""Below the first in diffuse and above the second in specular, a highlight is a metal's."""
_UNUSED = ("map_Ks", "map_Ns", "map_Ps", "map_Pc", "map_Tr", "disp")


class MtlReader:
    """Makes materials of one file; textures are appended to `asset`'s, what cannot be kept to its problems."""

    def __init__(self, asset: ImportedAsset, neighbours: Neighbours) -> None:
        self._asset, self._neighbours = asset, neighbours
        self._images = ImageStore()
        self._numbers: dict[tuple[Any, ...], int | None] = {}
        self._missing: set[str] = set()

    def convert(self, name: str, said: MtlMaterial) -> Material:
        """The OpenPBR material that looks like one of the file's."""
        fields: dict[str, Any] = {"name": name, **_surface(said), **_layers(said), **_transparency(said)}
        fields |= self._maps(said, fields)
        for key in _UNUSED:
            if key in said.maps:
                self._say(f"material {name!r}: its {key} is not used")
        return Material(**{key: value for key, value in fields.items() if value is not None})

    def _say(self, problem: str) -> None:
        if problem not in self._asset.problems:
            self._asset.problems.append(problem)

    def _maps(self, said: MtlMaterial, fields: dict[str, Any]) -> dict[str, Any]:
        found: dict[str, Any] = {}
        color, cut = said.maps.get("map_Kd"), said.maps.get("map_d")
        if color or cut:
            found["base_color_texture"] = self._use(color or cut, "color", color, cut)
            if cut and found["base_color_texture"]:
                found["alpha_mode"] = "blend"
        if color and found["base_color_texture"] and not any(fields["base_color"]):
            found["base_color"] = (1.0, 1.0, 1.0)  # exporters write black beside a map
        rough, metal = said.maps.get("map_Pr"), said.maps.get("map_Pm")
        if rough or metal:
            found["metallic_roughness_texture"] = self._use(rough or metal, "surface", rough, metal)
            if found["metallic_roughness_texture"]:
                found |= {"specular_roughness": 1.0} if rough else {}
                found |= {"base_metalness": 1.0} if metal else {}
        if glow := said.maps.get("map_Ke"):
            found["emission_texture"] = self._use(glow, "color", glow, None)
            if found["emission_texture"] and "emission_color" not in fields:
                found |= {"emission_color": (1.0, 1.0, 1.0), "emission_luminance": 1.0}
        bump = said.maps.get("norm") or said.maps.get("bump")
        if bump:
            found["normal_texture"] = self._use(bump, "normals", bump, None)
            if "norm" in said.maps:
                found["normal_scale"] = min(max(bump.strength, 0.0), 10.0)
        return found

    def _use(
        self, laid: MapStatement | None, kind: str, first: MapStatement | None, second: MapStatement | None
    ) -> TextureUse | None:
        """The texture packed of one or two images, laid out as `laid` says; None when no image can be read."""
        assert laid is not None
        key = (kind, first and first.path, second and second.path, laid.clamped, kind == "normals" and laid.strength)
        if key not in self._numbers:
            images = [None if each is None else self._image(each.path) for each in (first, second)]
            self._numbers[key] = self._packed(kind, images, laid) if any(i is not None for i in images) else None
        number = self._numbers[key]
        if number is None:
            return None
        (su, sv), (ou, ov) = laid.scale, laid.offset
        # An OBJ's v runs up from the lower edge, that of a texture down from the upper.
        return TextureUse(texture=number, matrix=(su, 0.0, ou, 0.0, sv, 1.0 - sv - ov))

    def _packed(self, kind: str, images: list[np.ndarray | None], laid: MapStatement) -> int:
        first, second = images
        if kind == "color":
            texels = stacked(first, second if second is None else _cut_out(second), (255, 255, 255, 255), "color")
        elif kind == "surface":
            texels = stacked(first, second, (255, 255, 255, 255), "surface")
        else:
            assert first is not None
            texels = first if is_normal_map(first) else height_to_normals(first, laid.strength)
        wrap = CLAMP if laid.clamped else REPEAT
        self._asset.textures.append(Texture(texels, wrap, wrap))
        return len(self._asset.textures) - 1

    def _image(self, mentioned: str) -> np.ndarray | None:
        path = self._neighbours.find(mentioned)
        if path is None:
            self._say(f"texture {mentioned[:120]!r} is missing")
            return None
        try:
            return self._images.get(path, lambda room: decode_image(path.read_bytes(), room, path.suffix.lower()))
        except ImageProblem as problem:
            self._say(f"texture {path.name!r} {problem}")
            return None


def _cut_out(image: np.ndarray) -> np.ndarray:
    """(h, w) opacity: the alpha of an image that has one, else its lightness."""
    return image[..., 3] if image.shape[2] == 4 and image[..., 3].min() < np.iinfo(np.uint8).max else lightness(image)


def _unit(value: float) -> float:
    return min(max(value, 0.0), 1.0)


def _surface(said: MtlMaterial) -> dict[str, Any]:
    """Base and highlight."""
    diffuse = [_unit(c) for c in said.colors.get("Kd", (0.8, 0.8, 0.8))]
    specular = [_unit(c) for c in said.colors.get("Ks", (0.5, 0.5, 0.5))]
    numbers = said.numbers
    found: dict[str, Any] = {"base_color": tuple(diffuse), "base_metalness": 0.0}
    if "Pr" in numbers:
        found["specular_roughness"] = _unit(numbers["Pr"])
    elif "Ns" in numbers:
        # Phong's exponent as a microfacet roughness (Walter et al., "Microfacet Models", 2007, section 5.2).
        found["specular_roughness"] = _unit((2 / (max(numbers["Ns"], 0.0) + 2)) ** 0.25)
    if "Pm" in numbers:
        found["base_metalness"] = _unit(numbers["Pm"])
    elif "map_Pm" not in said.maps and "Pr" not in numbers and "map_Kd" not in said.maps:
        glass = numbers.get("illum") in _SEE_THROUGH
        if max(diffuse) < _METAL_DIFFUSE and max(specular) > _METAL_SPECULAR and not glass:
            found |= {"base_metalness": 1.0, "base_color": tuple(specular)}
    if "Ks" in said.colors and "Pr" not in numbers and max(specular) == 0.0:
        found["specular_weight"] = 0.0
    if "Ni" in numbers and numbers["Ni"] > 1.0:
        found["specular_ior"] = min(numbers["Ni"], 3.0)
    return found


def _layers(said: MtlMaterial) -> dict[str, Any]:
    """Coat, sheen, anisotropy and glow."""
    numbers = said.numbers
    found: dict[str, Any] = {}
    if numbers.get("Pc", 0.0) > 0:
        found |= {"coat_weight": _unit(numbers["Pc"]), "coat_roughness": _unit(numbers.get("Pcr", 0.0))}
    if numbers.get("Ps", 0.0) > 0:
        found["fuzz_weight"] = _unit(numbers["Ps"])
    if numbers.get("aniso", 0.0) > 0:
        found["specular_roughness_anisotropy"] = _unit(numbers["aniso"])
        found["tangent_rotation"] = 360 * (numbers.get("anisor", 0.0) % 1.0)
    glow = [max(c, 0.0) for c in said.colors.get("Ke", (0.0, 0.0, 0.0))]
    if max(glow) > 0:
        found["emission_color"] = tuple(c / max(glow) for c in glow)
        found["emission_luminance"] = min(max(glow), 1e6)
    return found


def _transparency(said: MtlMaterial) -> dict[str, Any]:
    """Glass by its illumination model, holes by everything else that lets through."""
    numbers = said.numbers
    opacity = _unit(numbers["d"] if "d" in numbers else 1.0 - numbers.get("Tr", 0.0))
    tint = tuple(_unit(c) for c in said.colors.get("Tf", (1.0, 1.0, 1.0)))
    if numbers.get("illum") in _SEE_THROUGH and not math.isclose(opacity, 1.0):
        return {"transmission_weight": 1.0 - opacity, "transmission_tint": tint}
    return {"geometry_opacity": opacity} if opacity < 1.0 else {}
