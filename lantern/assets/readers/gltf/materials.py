"""glTF materials as OpenPBR materials (glTF 2.0, section 3.9, and ratified `KHR_materials_*` extensions)."""

import math
from collections.abc import Callable
from typing import Any

from lantern.assets.errors import AssetError
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry
from lantern.assets.readers.gltf.primitives import MOST_UV_SETS
from lantern.assets.textures import Texture
from lantern.assets.varying import FILM_TEXTURE, VARIED, inputs_of
from lantern.scene.document import Material
from lantern.scene.texture_use import TextureUse

USED_TEXTURES = (
    "transmissionTexture", "clearcoatNormalTexture", FILM_TEXTURE, *(varied.texture for varied in VARIED),
)  # fmt: skip
MATERIAL_EXTENSIONS = {
    "KHR_materials_ior",
    "KHR_materials_transmission",
    "KHR_materials_volume",
    "KHR_materials_clearcoat",
    "KHR_materials_anisotropy",
    "KHR_materials_sheen",
    "KHR_materials_iridescence",
    "KHR_materials_dispersion",
    "KHR_materials_specular",
    "KHR_materials_unlit",
    "KHR_materials_emissive_strength",
    "KHR_texture_transform",
}


Use = Callable[[Any], TextureUse | None]
"""Makes the use of a texture of what the file says of it."""


def convert_material(
    container: Container, source: Entry, name: str, textures: list[Texture], problems: list[str]
) -> Material:
    """The OpenPBR material that looks like a glTF material; what cannot be kept is added to `problems`.

    Raises AssetError for a material that does not follow the standard.
    """
    try:
        return _convert(container, source, name, textures, problems)
    except (AttributeError, KeyError, TypeError, ValueError) as error:
        if isinstance(error, AssetError):
            raise
        raise AssetError(container.name, f"material {name!r} does not follow glTF 2.0 ({error})") from error


def _extensions_of(source: Entry) -> dict[str, dict[str, Any]]:
    extensions = source.extensions or {}
    for key, value in extensions.items():
        if not isinstance(value, dict):
            raise TypeError(f"its extension {key} is {type(value).__name__}, not an object")
    return extensions


def _convert(container: Container, source: Entry, name: str, textures: list[Texture], problems: list[str]) -> Material:
    extensions = _extensions_of(source)

    def use(info: Any) -> TextureUse | None:
        return _texture_use(container, info, name, textures, problems)

    fields: dict[str, Any] = {"name": name, "double_sided": bool(source.doubleSided)} | _base(source, use)
    if source.normalTexture is not None:
        fields["normal_texture"] = use(source.normalTexture)
        scale = source.normalTexture.scale
        fields["normal_scale"] = min(max(1.0 if scale is None else float(scale), 0.0), 10.0)
    fields |= _emission(source, extensions) | {"emission_texture": use(source.emissiveTexture)}
    if "KHR_materials_ior" in extensions:
        # 0 is the extension's way to say "reflects everything".
        ior = float(extensions["KHR_materials_ior"].get("ior", 1.5))
        fields["specular_ior"] = min(max(ior, 1.0), 3.0) if ior else 3.0
    if "KHR_materials_transmission" in extensions:
        fields |= _transmission(extensions, fields["base_color"]) | {
            "transmission_texture": use(extensions["KHR_materials_transmission"].get("transmissionTexture")),
            "transmission_tint_texture": fields.get("base_color_texture"),
        }
    if coat := extensions.get("KHR_materials_clearcoat"):
        fields |= _coat(coat, use)
    fields |= _extended_lobes(extensions, fields)
    fields["inputs"] = inputs_of(extensions, fields, use, textures)
    fields |= _alpha(source)
    if "KHR_materials_unlit" in extensions:
        fields |= _unlit(fields)
    for extension, values in extensions.items():
        unused = [key for key in values if key.endswith("Texture") and key not in USED_TEXTURES]
        if extension in MATERIAL_EXTENSIONS and unused:
            problems.append(f"material {name!r}: of {extension} the {' and '.join(unused)} is not used")
    return Material(**{key: value for key, value in fields.items() if value is not None})


def _base(source: Entry, use: Use) -> dict[str, Any]:
    """Colour, metalness and roughness with their images."""
    pbr = source.pbrMetallicRoughness
    if pbr is None:
        return {"base_color": (1.0, 1.0, 1.0), "base_metalness": 1.0, "specular_roughness": 1.0}
    return {
        "base_color": tuple(_unit(v) for v in (pbr.baseColorFactor or [1.0, 1.0, 1.0])[:3]),
        "base_metalness": _unit(1.0 if pbr.metallicFactor is None else pbr.metallicFactor),
        "specular_roughness": _unit(1.0 if pbr.roughnessFactor is None else pbr.roughnessFactor),
        "base_color_texture": use(pbr.baseColorTexture),
        "metallic_roughness_texture": use(pbr.metallicRoughnessTexture),
    }


def _coat(coat: dict[str, Any], use: Use) -> dict[str, Any]:
    """Clearcoat; the extension fixes its index of refraction at 1.5."""
    scale = (coat.get("clearcoatNormalTexture") or {}).get("scale", 1.0)
    return {
        "coat_weight": _unit(coat.get("clearcoatFactor", 0.0)),
        "coat_roughness": _unit(coat.get("clearcoatRoughnessFactor", 0.0)),
        "coat_ior": 1.5,
        "coat_normal_texture": use(coat.get("clearcoatNormalTexture")),
        "coat_normal_scale": min(max(float(scale), 0.0), 10.0),
    }


def _extended_lobes(extensions: dict[str, Any], fields: dict[str, Any]) -> dict[str, Any]:
    """Anisotropy, sheen, iridescence, dispersion and specular as OpenPBR says them."""
    found: dict[str, Any] = {}
    if strength := _unit(extensions.get("KHR_materials_anisotropy", {}).get("anisotropyStrength", 0.0)):
        # The extension widens αt to mix(α, 1, strength²) and keeps αb; OpenPBR keeps their mean square.
        alpha = max(fields["specular_roughness"] ** 2, 1e-3)
        wide = alpha + (1 - alpha) * strength**2
        narrow = alpha / wide
        found["specular_roughness_anisotropy"] = 1 - narrow
        found["specular_roughness"] = min((wide / math.sqrt(2 / (1 + narrow**2))) ** 0.5, 1.0)
        turn = float(extensions["KHR_materials_anisotropy"].get("anisotropyRotation", 0.0))
        found["tangent_rotation"] = math.degrees(turn) % 360
    sheen = [_unit(c) for c in extensions.get("KHR_materials_sheen", {}).get("sheenColorFactor", [0, 0, 0])]
    if max(sheen) > 0:
        found["fuzz_weight"] = max(sheen)
        found["fuzz_color"] = tuple(c / max(sheen) for c in sheen)
        found["fuzz_roughness"] = _unit(extensions["KHR_materials_sheen"].get("sheenRoughnessFactor", 0.0))
    film = extensions.get("KHR_materials_iridescence", {})
    if weight := _unit(film.get("iridescenceFactor", 0.0)):
        found["thin_film_weight"] = weight
        found["thin_film_ior"] = min(max(float(film.get("iridescenceIor", 1.3)), 1.0), 3.0)
        found["thin_film_thickness"] = min(max(float(film.get("iridescenceThicknessMaximum", 400)) / 1000, 0.0), 10.0)
    dispersion = float(extensions.get("KHR_materials_dispersion", {}).get("dispersion", 0.0))
    if dispersion > 0:
        # The extension's number is 20 over Abbe's.
        found["transmission_dispersion_scale"] = 1.0
        found["transmission_dispersion_abbe_number"] = min(max(20 / dispersion, 9.0), 91.0)
    specular = extensions.get("KHR_materials_specular", {})
    if specular and (fields["base_metalness"] < 1 or fields.get("metallic_roughness_texture")):
        # The extension leaves metals alone; of a metal OpenPBR would tint the edge.
        found["specular_weight"] = _unit(specular.get("specularFactor", 1.0))
        found["specular_color"] = tuple(_unit(c) for c in specular.get("specularColorFactor", [1, 1, 1]))
    return found


def _unlit(fields: dict[str, Any]) -> dict[str, Any]:
    """A surface that is as bright as it is coloured, whatever light falls on it: it glows and reflects nothing."""
    return {
        "base_color": (0.0, 0.0, 0.0), "base_metalness": 0.0, "specular_weight": 0.0,
        "metallic_roughness_texture": None, "inputs": {},
        "emission_color": fields["base_color"], "emission_luminance": 1.0,
        "emission_texture": fields.get("base_color_texture"),
    }  # fmt: skip


def _alpha(source: Entry) -> dict[str, Any]:
    """Opacity: the factor's alpha holes a material as a whole, the texture's point by point."""
    mode = (source.alphaMode or "OPAQUE").lower()
    if mode not in ("blend", "mask"):
        return {}
    factor = source.pbrMetallicRoughness.baseColorFactor if source.pbrMetallicRoughness else None
    alpha = _unit(factor[3]) if factor and len(factor) > 3 else 1.0
    found = {"alpha_mode": mode, "geometry_opacity": alpha}
    if mode == "mask":
        found["alpha_cutoff"] = 0.5 if source.alphaCutoff is None else max(float(source.alphaCutoff), 0.0)
    return found


def _unit(value: Any) -> float:
    number = float(value)
    return min(max(number, 0.0), 1.0) if math.isfinite(number) else 0.0


def _emission(source: Entry, extensions: dict[str, Any]) -> dict[str, Any]:
    factor = [_unit(v) for v in (source.emissiveFactor or [0.0, 0.0, 0.0])]
    strength = float(extensions.get("KHR_materials_emissive_strength", {}).get("emissiveStrength", 1.0))
    if max(factor) <= 0.0 or not strength > 0.0:
        return {}
    return {"emission_color": tuple(factor), "emission_luminance": min(strength, 1e6)}


def _transmission(extensions: dict[str, Any], base: tuple[float, ...]) -> dict[str, Any]:
    fields: dict[str, Any] = {
        "transmission_weight": _unit(extensions["KHR_materials_transmission"].get("transmissionFactor", 0.0)),
        # The base colour tints what passes the surface; a volume's colour comes on top of it.
        "transmission_tint": tuple(base),
    }
    volume = extensions.get("KHR_materials_volume", {})
    fields["geometry_thin_walled"] = not float(volume.get("thicknessFactor", 0.0)) > 0.0
    distance = float(volume.get("attenuationDistance", 0.0) or 0.0)
    if 0.0 < distance < math.inf:
        tint = [_unit(v) for v in volume.get("attenuationColor", [1.0, 1.0, 1.0])]
        fields |= {
            "transmission_color": tuple(tint),
            "transmission_depth": min(distance, 1000.0),
        }
    return fields


def _texture_use(
    container: Container, info: Any, material: str, textures: list[Texture], problems: list[str]
) -> TextureUse | None:
    if info is None:
        return None
    plain = (
        info
        if isinstance(info, dict)
        else {"index": info.index, "texCoord": info.texCoord, "extensions": info.extensions}
    )
    number = plain.get("index")
    if not isinstance(number, int) or not 0 <= number < len(textures):
        raise AssetError(container.name, f"material {material!r} uses texture {number}, which is missing")
    transform = (plain.get("extensions") or {}).get("KHR_texture_transform", {})
    uv_set = transform.get("texCoord", plain.get("texCoord") or 0)
    if not isinstance(uv_set, int) or not 0 <= uv_set < MOST_UV_SETS:
        problems.append(f"material {material!r}: a texture on UV set {uv_set} is left out")
        return None
    ox, oy = transform.get("offset", (0.0, 0.0))
    sx, sy = transform.get("scale", (1.0, 1.0))
    angle = float(transform.get("rotation", 0.0))
    c, s = math.cos(angle), math.sin(angle)
    return TextureUse(texture=number, uv_set=uv_set, matrix=(c * sx, s * sy, ox, -s * sx, c * sy, oy))
