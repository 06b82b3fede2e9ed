"""Materials of a stage as OpenPBR materials: UsdPreviewSurface, and MaterialX surfaces (UsdShade; "UsdPreviewSurface
Specification" 2.6; MaterialX 1.39: OpenPBR Surface, Standard Surface, glTF PBR).

In: a bound material. Out: materials and textures of an `ImportedAsset`. Called by `stage`.
"""

from typing import Any

from pxr import Usd, UsdShade

from lantern.assets.imported import DEFAULT, ImportedAsset
from lantern.assets.keys import unique_key
from lantern.assets.readers.usd.inputs import Inputs
from lantern.assets.readers.usd.materialx import SURFACES
from lantern.assets.readers.usd.textures import Laid, TextureReader, uv_set_of
from lantern.assets.source import Source
from lantern.scene.document import Material

MOST_UV_SETS = 4
PREVIEW = "UsdPreviewSurface"


class MaterialReader:
    """Makes the materials of one stage, each when it is first worn."""

    def __init__(self, source: Source, asset: ImportedAsset) -> None:
        self._asset = asset
        self.uv_sets: list[str] = []
        self._textures = TextureReader(source, asset, self.uv_sets)
        self._keys: dict[Any, str] = {}

    def find_sets(self, stage: Usd.Stage) -> None:
        """Learn which sets of texture coordinates the stage's materials name, before its meshes are read."""
        for prim in Usd.PrimRange.Stage(stage, Usd.TraverseInstanceProxies()):
            name = uv_set_of(UsdShade.Shader(prim)) if prim.IsA(UsdShade.Shader) else None
            if name and name not in self.uv_sets and len(self.uv_sets) < MOST_UV_SETS:
                self.uv_sets.append(name)
        if not self.uv_sets:
            self.uv_sets.append("st")

    def key_of(self, material: UsdShade.Material) -> str:
        """Key of a material of the stage."""
        prim = material.GetPrim()
        own = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        if own.GetPath() not in self._keys:
            made = self._convert(material)
            self._keys[own.GetPath()] = unique_key(made.name, self._asset.materials)
            self._asset.materials[self._keys[own.GetPath()]] = made
        return self._keys[own.GetPath()]

    def as_now(self, material: UsdShade.Material) -> Material:
        """A material as the stage says it now, with another variant chosen."""
        return self._convert(material)

    def _convert(self, material: UsdShade.Material) -> Material:
        name = material.GetPrim().GetName()[:200]
        for context in ("mtlx", UsdShade.Tokens.universalRenderContext):
            shader, _, _ = material.ComputeSurfaceSource(context)
            identity = shader.GetIdAttr().Get() if shader else None
            if identity == PREVIEW or identity == "ND_UsdPreviewSurface_surfaceshader":
                return self._made(name, _preview(Inputs(shader, self._textures)))
            if identity in SURFACES:
                return self._made(name, SURFACES[identity](Inputs(shader, self._textures)))
        self._asset.problems.append(f"material {name!r}: its surface is of no kind that is read")
        return DEFAULT.model_copy(update={"name": name})

    def _made(self, name: str, fields: dict[str, Any]) -> Material:
        return Material(name=name, **{key: value for key, value in fields.items() if value is not None})


def _preview(given: Inputs) -> dict[str, Any]:
    """UsdPreviewSurface, metalness and specular workflow."""
    color, rough, metal = given.laid("diffuseColor"), given.laid("roughness"), given.laid("metallic")
    fields: dict[str, Any] = {
        "base_color": _tint(color) if color else given.color("diffuseColor", (0.18, 0.18, 0.18)),
        "base_color_texture": given.textures.color(color, given.laid("opacity")),
        "specular_roughness": rough.factor if rough else given.number("roughness", 0.5),
        "base_metalness": metal.factor if metal else given.number("metallic", 0.0),
        "metallic_roughness_texture": given.textures.surface(rough, metal),
        "specular_ior": given.number("ior", 1.5, 1.0, 3.0),
        "normal_texture": given.textures.normals(given.laid("normal")),
    }
    if given.flag("useSpecularWorkflow"):
        fields["base_metalness"] = 0.0
        fields["specular_color"] = given.color("specularColor", (0.0, 0.0, 0.0))
    coat = given.number("clearcoat", 0.0)
    if coat > 0:
        fields |= {"coat_weight": coat, "coat_roughness": given.number("clearcoatRoughness", 0.01), "coat_ior": 1.5}
    glow = given.laid("emissiveColor")
    color_of_glow = given.color("emissiveColor", (0.0, 0.0, 0.0), 1e6)
    if glow:
        strength = min(max(glow.tint), 1e6)
        fields |= {"emission_texture": given.textures.color(glow, None), "emission_luminance": strength}
        fields |= {"emission_color": tuple(min(c, 1e6) / strength for c in glow.tint)} if strength > 0 else {}
    elif (strength := max(color_of_glow)) > 0:
        fields |= {"emission_color": tuple(c / strength for c in color_of_glow), "emission_luminance": strength}
    return fields | _preview_opacity(given)


def _tint(laid: Laid) -> tuple[float, ...]:
    return tuple(min(c, 1.0) for c in laid.tint)


def _preview_opacity(given: Inputs) -> dict[str, Any]:
    threshold = given.number("opacityThreshold", 0.0)
    if given.laid("opacity"):
        return {"alpha_mode": "mask", "alpha_cutoff": threshold} if threshold > 0 else {"alpha_mode": "blend"}
    opacity = given.number("opacity", 1.0)
    if opacity >= 1.0:
        return {}
    if given.word("opacityMode") == "presence" or threshold > 0:
        return {"geometry_opacity": 0.0 if opacity < threshold else opacity}
    # "transparent" keeps its highlights, as glass does (specification, section Core Nodes).
    return {"transmission_weight": 1.0 - opacity, "geometry_thin_walled": True}
