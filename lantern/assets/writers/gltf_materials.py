"""OpenPBR materials as glTF materials: the inverse of reading them (glTF 2.0, section 3.9; `KHR_materials_*`).

In: materials and textures. Out: the JSON of materials, textures, samplers and images. Called by `gltf`.
"""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from lantern.assets.textures import CLAMP, MIRROR, REPEAT, Texture
from lantern.assets.varying import uses_of
from lantern.assets.writers.content import unsaid
from lantern.assets.writers.gltf_buffer import GlbBuffer
from lantern.assets.writers.images import png_of
from lantern.scene.document import Material
from lantern.scene.texture_use import TextureUse

_WRAPS = {REPEAT: 10497, CLAMP: 33071, MIRROR: 33648}
_NEAREST, _LINEAR = 9728, 9729
_UNSAID = (
    ("subsurface_weight", "subsurface"), ("transmission_scatter", "scattering inside"),
    ("base_diffuse_roughness", "diffuse roughness"), ("coat_color", "the colour of its coat"),
)  # fmt: skip
"""What glTF has no word for, and what that is called."""


class MaterialWriter:
    """Writes the materials of one file, and of the textures those that they use."""

    def __init__(self, buffer: GlbBuffer, textures: Sequence[Texture], lost: list[str]) -> None:
        self._buffer, self._sources, self._lost = buffer, textures, lost
        self._numbers: dict[int, int] = {}
        self._images: dict[int, int] = {}
        self.materials: list[dict[str, Any]] = []
        self.textures: list[dict[str, Any]] = []
        self.images: list[dict[str, Any]] = []
        self.samplers: list[dict[str, Any]] = []
        self.extensions: set[str] = set()

    def add(self, material: Material) -> int:
        """Number of a material; what of it glTF cannot say is added to what is lost."""
        self._lost += unsaid(material, _UNSAID)
        base = material.transmission_tint if material.transmission_weight > 0 else material.base_color
        roughness, strength = _isotropic(material)
        pbr: dict[str, Any] = {
            "baseColorFactor": [*(c * material.base_weight for c in base), material.geometry_opacity],
            "metallicFactor": material.base_metalness,
            "roughnessFactor": roughness,
        }
        color = material.base_color_texture or material.transmission_tint_texture
        self._texture(pbr, "baseColorTexture", color)
        self._texture(pbr, "metallicRoughnessTexture", material.metallic_roughness_texture)
        made: dict[str, Any] = {
            "name": material.name, "pbrMetallicRoughness": pbr, "doubleSided": material.double_sided,
        } | _alpha(material)  # fmt: skip
        self._texture(made, "normalTexture", material.normal_texture, scale=material.normal_scale)
        extensions = self._extensions(material, strength) | self._emission(material, made)
        for extension, name, use in uses_of(material).values():
            if extension in extensions:
                self._texture(extensions[extension], name, use)
        if extensions:
            made["extensions"] = extensions
            self.extensions |= set(extensions)
        self.materials.append(made)
        return len(self.materials) - 1

    def _emission(self, material: Material, made: dict[str, Any]) -> dict[str, Any]:
        if material.emission_luminance <= 0:
            return {}
        brightest = max(*material.emission_color, 1e-12)
        made["emissiveFactor"] = [c / brightest for c in material.emission_color]
        self._texture(made, "emissiveTexture", material.emission_texture)
        return {"KHR_materials_emissive_strength": {"emissiveStrength": material.emission_luminance * brightest}}

    def _extensions(self, m: Material, strength: float) -> dict[str, Any]:
        found: dict[str, Any] = {}
        varied = uses_of(m)
        if m.specular_ior != 1.5:
            found["KHR_materials_ior"] = {"ior": m.specular_ior}
        if m.transmission_weight > 0:
            transmission: dict[str, Any] = {"transmissionFactor": m.transmission_weight}
            self._texture(transmission, "transmissionTexture", m.transmission_texture)
            found["KHR_materials_transmission"] = transmission
            if not m.geometry_thin_walled:
                # Any thickness but none says that there is an inside.
                volume: dict[str, Any] = {"thicknessFactor": 1.0}
                if m.transmission_depth > 0:
                    volume["attenuationDistance"] = m.transmission_depth
                    volume["attenuationColor"] = list(m.transmission_color)
                found["KHR_materials_volume"] = volume
            if m.transmission_dispersion_scale > 0:
                abbe = m.transmission_dispersion_abbe_number / m.transmission_dispersion_scale
                found["KHR_materials_dispersion"] = {"dispersion": 20 / abbe}
        if m.coat_weight > 0:
            coat: dict[str, Any] = {"clearcoatFactor": m.coat_weight, "clearcoatRoughnessFactor": m.coat_roughness}
            self._texture(coat, "clearcoatNormalTexture", m.coat_normal_texture, scale=m.coat_normal_scale)
            found["KHR_materials_clearcoat"] = coat
        if m.fuzz_weight > 0:
            found["KHR_materials_sheen"] = {
                "sheenColorFactor": [c * m.fuzz_weight for c in m.fuzz_color],
                "sheenRoughnessFactor": m.fuzz_roughness,
            }
        if strength > 0:
            turn = math.radians(m.tangent_rotation)
            found["KHR_materials_anisotropy"] = {"anisotropyStrength": strength, "anisotropyRotation": turn}
        if m.thin_film_weight > 0:
            ends = {"Maximum": m.thin_film_thickness}
            if "thin_film_thickness" in varied:
                one = m.inputs["thin_film_thickness"]
                ends = {"Minimum": one.low, "Maximum": one.high}
            found["KHR_materials_iridescence"] = {
                "iridescenceFactor": m.thin_film_weight,
                "iridescenceIor": m.thin_film_ior,
                **{f"iridescenceThickness{end}": thickness * 1000 for end, thickness in ends.items()},
            }
        plain = m.specular_weight == 1 and m.specular_color == (1, 1, 1)
        if not plain or "specular_weight" in varied or "specular_color" in varied:
            found["KHR_materials_specular"] = {
                "specularFactor": m.specular_weight,
                "specularColorFactor": list(m.specular_color),
            }
        return found

    def _texture(self, place: dict[str, Any], name: str, use: TextureUse | None, scale: float | None = None) -> None:
        """Put a use of a texture into an object, if there is one."""
        if use is None or use.texture >= len(self._sources):
            return
        info: dict[str, Any] = {"index": self._number(use.texture), "texCoord": use.uv_set}
        if scale is not None:
            info["scale"] = scale
        if use.matrix != (1, 0, 0, 0, 1, 0):
            a, b, ox, d, e, oy = use.matrix
            info["extensions"] = {"KHR_texture_transform": {
                "offset": [ox, oy], "rotation": math.atan2(-d, a), "scale": [math.hypot(a, d), math.hypot(b, e)],
            }}  # fmt: skip
            self.extensions.add("KHR_texture_transform")
        place[name] = info

    def _number(self, texture: int) -> int:
        if texture not in self._numbers:
            source = self._sources[texture]
            filtering = _NEAREST if source.nearest else _LINEAR
            self.samplers.append(
                {"magFilter": filtering, "wrapS": _WRAPS[source.wrap_u], "wrapT": _WRAPS[source.wrap_v]}
            )
            self.textures.append({"source": self._image(source.texels), "sampler": len(self.samplers) - 1})
            self._numbers[texture] = len(self.textures) - 1
        return self._numbers[texture]

    def _image(self, texels: np.ndarray) -> int:
        if id(texels) not in self._images:
            view = self._buffer.view(png_of(texels, self._lost))
            self.images.append({"bufferView": view, "mimeType": "image/png"})
            self._images[id(texels)] = len(self.images) - 1
        return self._images[id(texels)]


def _alpha(material: Material) -> dict[str, Any]:
    if material.alpha_mode == "mask":
        return {"alphaMode": "MASK", "alphaCutoff": material.alpha_cutoff}
    return {"alphaMode": "BLEND"} if material.alpha_mode == "blend" or material.geometry_opacity < 1 else {}


def _isotropic(material: Material) -> tuple[float, float]:
    """(roughness, strength of the anisotropy) of a material whose two widths glTF measures otherwise than OpenPBR."""
    narrow = 1 - material.specular_roughness_anisotropy
    if narrow >= 1:
        return material.specular_roughness, 0.0
    wide = material.specular_roughness**2 * math.sqrt(2 / (1 + narrow**2))
    alpha = min(wide * narrow, 1.0)
    strength = math.sqrt(min(max((wide - alpha) / max(1 - alpha, 1e-9), 0.0), 1.0))
    return math.sqrt(alpha), strength
