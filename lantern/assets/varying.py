"""Parameters of glTF's extensions that an image of the asset varies, and the inputs that they are here.

In: what a file says of a texture, or an input. Out: the other. Called by the reader and the writer of glTF materials.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Literal, NamedTuple

import numpy as np

from lantern.assets.laid import placement_of, use_of
from lantern.assets.textures import Texture
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Parameter
from lantern.scene.sources import ImageSource
from lantern.scene.texture_use import TextureUse


class Varied(NamedTuple):
    """A texture of an extension: what it is called, the parameter that it multiplies, and where it says it."""

    extension: str
    texture: str
    parameter: Parameter
    channel: Literal["color", "red", "green", "blue", "alpha"]


VARIED = (
    Varied("KHR_materials_specular", "specularTexture", "specular_weight", "alpha"),
    Varied("KHR_materials_specular", "specularColorTexture", "specular_color", "color"),
    Varied("KHR_materials_clearcoat", "clearcoatTexture", "coat_weight", "red"),
    Varied("KHR_materials_clearcoat", "clearcoatRoughnessTexture", "coat_roughness", "green"),
    Varied("KHR_materials_sheen", "sheenColorTexture", "fuzz_color", "color"),
    Varied("KHR_materials_sheen", "sheenColorTexture", "fuzz_weight", "color"),
    Varied("KHR_materials_sheen", "sheenRoughnessTexture", "fuzz_roughness", "alpha"),
)
"""The factor of each multiplies what its texture says; colours are stored as sRGB.

Sheen that is black leaves what is below it as it is, and fuzz does not: where the image is grey it says how much fuzz
there is, else its colour.
"""
_GREY = 3
"""Codes that the channels of a grey image differ by at most."""
FILM, FILM_TEXTURE = "KHR_materials_iridescence", "iridescenceThicknessTexture"
"""Its green goes from one thickness to another."""
_NANOMETRES = 1000.0


def inputs_of(
    extensions: Mapping[str, Mapping[str, Any]],
    fields: Mapping[str, Any],
    use: Callable[[Any], TextureUse | None],
    textures: Sequence[Texture],
) -> dict[Parameter, MaterialInput]:
    """The inputs that a file's extensions ask for; `fields` are the constants: what there is nothing of varies not."""
    found: dict[Parameter, MaterialInput] = {}
    for extension, texture, parameter, channel in VARIED:
        laid = use(extensions.get(extension, {}).get(texture))
        if laid is None or fields.get(parameter) is None or not _is_there(parameter, fields):
            continue
        if texture == "sheenColorTexture" and (parameter == "fuzz_weight") != _is_grey(textures[laid.texture]):
            continue
        source = _source(laid, channel)
        found[parameter] = MaterialInput(source=source, placement=placement_of(laid), combine="multiply")
    film = extensions.get(FILM, {})
    laid = use(film.get(FILM_TEXTURE))
    if laid is not None and fields.get("thin_film_weight"):
        least, most = (
            min(max(float(film.get(f"iridescenceThickness{end}", value)) / _NANOMETRES, 0.0), 10.0)
            for end, value in (("Minimum", 100.0), ("Maximum", 400.0))
        )
        found["thin_film_thickness"] = MaterialInput(
            source=_source(laid, "green"), placement=placement_of(laid), low=least, high=most
        )
    return found


def uses_of(material: Material) -> dict[Parameter, tuple[str, str, TextureUse]]:
    """Of the inputs that glTF has a word for: the extension, the name of the texture there, and the use of it."""
    found: dict[Parameter, tuple[str, str, TextureUse]] = {}
    for varied in VARIED:
        one = material.inputs.get(varied.parameter)
        if one is not None and _multiplies(one) and _lies_in(one, varied.channel):
            use = _use(one)
            if use is not None:
                found[varied.parameter] = varied.extension, varied.texture, use
    film = material.inputs.get("thin_film_thickness")
    if film is not None and film.ramp is None and film.combine == "replace" and film.amount == 1:
        use = _use(film) if _lies_in(film, "green") else None
        if use is not None:
            found["thin_film_thickness"] = FILM, FILM_TEXTURE, use
    return found


def _is_grey(texture: Texture) -> bool:
    color = texture.texels[..., :3].astype(np.int32)
    return bool(np.ptp(color, axis=2).max() <= _GREY)


def _is_there(parameter: str, fields: Mapping[str, Any]) -> bool:
    weight = {"coat": "coat_weight", "fuzz": "fuzz_weight"}.get(parameter.split("_")[0])
    return weight is None or bool(fields.get(weight))


def _source(use: TextureUse, channel: Literal["color", "red", "green", "blue", "alpha"]) -> ImageSource:
    return ImageSource(texture=use.texture, channel=channel, decoding="srgb" if channel == "color" else "linear")


def _multiplies(one: MaterialInput) -> bool:
    plain = one.ramp is None and (one.low, one.high, one.amount) == (0.0, 1.0, 1.0)
    return plain and one.combine == "multiply"


def _lies_in(one: MaterialInput, channel: str) -> bool:
    source = one.source
    decoding = "srgb" if channel == "color" else "linear"
    return isinstance(source, ImageSource) and (source.channel, source.decoding) == (channel, decoding)


def _use(one: MaterialInput) -> TextureUse | None:
    return use_of(one.source.texture, one.placement) if isinstance(one.source, ImageSource) else None
