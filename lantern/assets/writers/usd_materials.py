"""OpenPBR materials as UsdPreviewSurface ("UsdPreviewSurface Specification" 2.6).

In: a stage, materials and their images. Out: material prims, images beside the stage, and what could not be said.
Called by `usd`.
"""

import math
from pathlib import Path

import numpy as np
from pxr import Gf, Sdf, Usd, UsdShade

from lantern.assets.textures import CLAMP, MIRROR, REPEAT
from lantern.assets.writers.content import Content, unsaid
from lantern.assets.writers.images import png_of
from lantern.scene.document import Material
from lantern.scene.texture_use import TextureUse

_WRAPS = {REPEAT: "repeat", CLAMP: "clamp", MIRROR: "mirror"}
_UNSAID = (
    ("subsurface_weight", "subsurface"), ("fuzz_weight", "fuzz"), ("thin_film_weight", "its thin film"),
    ("specular_roughness_anisotropy", "anisotropy"), ("coat_color", "the colour of its coat"),
    ("transmission_depth", "the colour of its depth"), ("transmission_tint", "the tint of what goes through"),
    ("transmission_dispersion_scale", "dispersion"), ("specular_weight", "the weight of its highlight"),
)  # fmt: skip
_FLIP = np.array([[1.0, 0, 0], [0, -1, 1], [0, 0, 1]])


class MaterialWriter:
    """Writes the materials of one stage, each when it is first worn."""

    def __init__(self, stage: Usd.Stage, content: Content, folder: Path, lost: list[str]) -> None:
        self._stage, self._content, self._folder, self._lost = stage, content, folder, lost
        self._made: dict[str, UsdShade.Material] = {}
        self._files: dict[int, str] = {}

    def of(self, key: str) -> UsdShade.Material:
        """The prim of a material."""
        if key not in self._made:
            self._made[key] = self._written(f"/Root/Materials/m{len(self._made)}", self._content.materials[key])
        return self._made[key]

    def _written(self, path: str, m: Material) -> UsdShade.Material:
        self._lost += unsaid(m, _UNSAID)
        material = UsdShade.Material.Define(self._stage, path)
        material.GetPrim().SetDisplayName(m.name)
        surface = UsdShade.Shader.Define(self._stage, f"{path}/Surface")
        surface.CreateIdAttr("UsdPreviewSurface")
        material.CreateSurfaceOutput().ConnectToSource(surface.ConnectableAPI(), "surface")
        for name, value in (("ior", m.specular_ior), ("clearcoat", m.coat_weight),
                            ("clearcoatRoughness", m.coat_roughness)):  # fmt: skip
            surface.CreateInput(name, Sdf.ValueTypeNames.Float).Set(value)
        self._color(surface, "diffuseColor", m.base_color_texture, [c * m.base_weight for c in m.base_color])
        glow = [c * m.emission_luminance for c in m.emission_color]
        self._color(surface, "emissiveColor", m.emission_texture if m.emission_luminance > 0 else None, glow)
        self._number(surface, "roughness", m.metallic_roughness_texture, "g", m.specular_roughness)
        self._number(surface, "metallic", m.metallic_roughness_texture, "b", m.base_metalness)
        self._opacity(surface, m)
        if m.normal_texture:
            if m.normal_scale != 1:
                self._lost.append(f"material {m.name!r}: the strength of its normals")
            image = self._image(surface, "normal", m.normal_texture, "raw", (2.0, 2.0, 2.0, 1.0))
            image.CreateInput("bias", Sdf.ValueTypeNames.Float4).Set(Gf.Vec4f(-1, -1, -1, 0))
            given = surface.CreateInput("normal", Sdf.ValueTypeNames.Normal3f)
            given.ConnectToSource(image.CreateOutput("rgb", Sdf.ValueTypeNames.Float3))
        return material

    def _opacity(self, surface: UsdShade.Shader, m: Material) -> None:
        number = Sdf.ValueTypeNames.Float
        if m.base_color_texture and m.alpha_mode != "opaque":
            image = self._image(surface, "opacity", m.base_color_texture, "sRGB", (1.0,) * 4)
            surface.CreateInput("opacity", number).ConnectToSource(image.CreateOutput("a", number))
            if m.alpha_mode == "mask":
                surface.CreateInput("opacityThreshold", number).Set(m.alpha_cutoff)
        elif m.transmission_weight > 0:
            surface.CreateInput("opacity", number).Set(1 - m.transmission_weight)
        elif m.geometry_opacity < 1:
            surface.CreateInput("opacity", number).Set(m.geometry_opacity)
            surface.CreateInput("opacityMode", Sdf.ValueTypeNames.Token).Set("presence")

    def _color(self, surface: UsdShade.Shader, name: str, use: TextureUse | None, factor: list[float]) -> None:
        given = surface.CreateInput(name, Sdf.ValueTypeNames.Color3f)
        if use is None:
            given.Set(Gf.Vec3f(*factor))
            return
        image = self._image(surface, name, use, "sRGB", (*factor, 1.0))
        given.ConnectToSource(image.CreateOutput("rgb", Sdf.ValueTypeNames.Float3))

    def _number(self, surface: UsdShade.Shader, name: str, use: TextureUse | None, channel: str, factor: float) -> None:
        given = surface.CreateInput(name, Sdf.ValueTypeNames.Float)
        if use is None:
            given.Set(factor)
            return
        image = self._image(surface, name, use, "raw", (factor,) * 4)
        given.ConnectToSource(image.CreateOutput(channel, Sdf.ValueTypeNames.Float))

    def _image(
        self, surface: UsdShade.Shader, name: str, use: TextureUse, space: str, scale: tuple[float, ...]
    ) -> UsdShade.Shader:
        """The node that reads an image for an input, times a scale, through coordinates laid as the use says."""
        texture = self._content.textures[use.texture]
        path = f"{surface.GetPath()}_{name}"
        coordinates = UsdShade.Shader.Define(self._stage, f"{path}_st")
        coordinates.CreateIdAttr("UsdPrimvarReader_float2")
        word = "st" if use.uv_set == 0 else f"st{use.uv_set}"
        coordinates.CreateInput("varname", Sdf.ValueTypeNames.String).Set(word)
        place = coordinates.CreateOutput("result", Sdf.ValueTypeNames.Float2)
        if use.matrix != (1, 0, 0, 0, 1, 0):
            place = self._laid(f"{path}_place", use, place)
        image = UsdShade.Shader.Define(self._stage, path)
        image.CreateIdAttr("UsdUVTexture")
        image.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(Sdf.AssetPath(self._file(use.texture)))
        image.CreateInput("sourceColorSpace", Sdf.ValueTypeNames.Token).Set(space)
        image.CreateInput("wrapS", Sdf.ValueTypeNames.Token).Set(_WRAPS[texture.wrap_u])
        image.CreateInput("wrapT", Sdf.ValueTypeNames.Token).Set(_WRAPS[texture.wrap_v])
        image.CreateInput("scale", Sdf.ValueTypeNames.Float4).Set(Gf.Vec4f(*scale))
        image.CreateInput("st", Sdf.ValueTypeNames.Float2).ConnectToSource(place)
        return image

    def _laid(self, path: str, use: TextureUse, place: UsdShade.Output) -> UsdShade.Output:
        """Scale, then rotation, then translation (UsdTransform2d) of coordinates whose v runs up."""
        matrix = _FLIP @ np.vstack([np.reshape(use.matrix, (2, 3)), [0, 0, 1]]) @ _FLIP
        across = math.hypot(matrix[0, 0], matrix[1, 0])
        turn = math.atan2(matrix[1, 0], matrix[0, 0])
        along = float(np.linalg.det(matrix[:2, :2])) / max(across, 1e-12)
        node = UsdShade.Shader.Define(self._stage, path)
        node.CreateIdAttr("UsdTransform2d")
        node.CreateInput("in", Sdf.ValueTypeNames.Float2).ConnectToSource(place)
        node.CreateInput("scale", Sdf.ValueTypeNames.Float2).Set(Gf.Vec2f(across, along))
        node.CreateInput("rotation", Sdf.ValueTypeNames.Float).Set(math.degrees(turn))
        node.CreateInput("translation", Sdf.ValueTypeNames.Float2).Set(Gf.Vec2f(*matrix[:2, 2].tolist()))
        return node.CreateOutput("result", Sdf.ValueTypeNames.Float2)

    def _file(self, number: int) -> str:
        if number not in self._files:
            self._files[number] = f"image{number}.png"
            data = png_of(self._content.textures[number].texels, self._lost)
            (self._folder / self._files[number]).write_bytes(data)
        return self._files[number]
