"""Inputs: what a parameter of a material takes instead of, or together with, its constant.

A source (`sources`) says a value for each place. Its placement says how it
lies there, a ramp what its values mean, and the way of combining what becomes of the constant.
"""

from collections.abc import Callable, Mapping
from typing import Annotated, Literal, get_args

from pydantic import AfterValidator, Field

from lantern.scene.fields import FAR, Finite, LightColor, choice, count, place, quantity
from lantern.scene.model import FileRef, Model
from lantern.scene.sources import (
    AnySource,
    DistanceSource,
    FileSource,
    HeightSource,
    ImageSource,
    NoiseSource,
    OcclusionSource,
    WornSource,
)


class Placement(Model):
    """How an image or a pattern lies on a part.

    By texture coordinates, or by a frame in metres: in the part's own space, which is carried along when it is moved,
    or in that of the scene as it stands at rest.
    """

    kind: Literal["uv", "box", "plane", "cylinder", "sphere"] = choice(
        "box", "Laid on by",
        {"uv": "Coordinates", "box": "Box", "plane": "Plane", "cylinder": "Cylinder", "sphere": "Sphere"},
    )  # fmt: skip
    uv_set: int = count(0, "Set of coordinates", "", (0, 3), (0, 3))
    repeats: float = quantity(1.0, "Repeats", "×", (1e-3, 1e5), (0.1, 100), 0.1)
    size: float = quantity(0.02, "Size", "m", (1e-6, 1e4), (0.001, 1), 0.001)
    ratio: float = quantity(1.0, "Height to width", "×", (1e-3, 1e3), (0.1, 10), 0.05)
    offset: tuple[Finite, Finite, Finite] = place((0, 0, 0), "Middle")
    turn_x: float = quantity(0.0, "Turn about X", "°", (-360, 360), (-180, 180), 1)
    turn_y: float = quantity(0.0, "Turn about Y", "°", (-360, 360), (-180, 180), 1)
    turn_z: float = quantity(0.0, "Turn about Z", "°", (-360, 360), (-180, 180), 1)
    blend: float = quantity(0.3, "Seams blend over", "", (0.01, 1), step=0.01)
    space: Literal["part", "scene"] = choice("part", "Carried by", {"part": "The part", "scene": "The scene"})


class Stop(Model):
    """A value of the source and the colour that it stands for; a number takes the luminance of the colour."""

    at: float = quantity(0.0, "At", "", (0, 1), step=0.01)
    color: LightColor = (1.0, 1.0, 1.0)


def _rising(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    places = [stop.at for stop in stops]
    if places != sorted(places):
        raise ValueError(f"the stops of a ramp must rise, not {places}")
    return stops


MOST_STOPS = 8


class Ramp(Model):
    """What values of a source stand for, between stops."""

    stops: Annotated[tuple[Stop, ...], AfterValidator(_rising)] = Field(
        (Stop(at=0.0, color=(0, 0, 0)), Stop(at=1.0)), min_length=2, max_length=MOST_STOPS, title="Stops"
    )
    blend: Literal["linear", "smooth", "steps"] = choice(
        "linear", "Between stops", {"linear": "Linear", "smooth": "Smooth", "steps": "Steps"}
    )


class MaterialInput(Model):
    """What a parameter takes besides its constant."""

    source: AnySource = NoiseSource()
    placement: Placement = Placement()
    low: float = quantity(0.0, "Dark stands for", "", (-1e3, 1e3), (0, 1), 0.01)
    high: float = quantity(1.0, "Bright stands for", "", (-1e3, 1e3), (0, 1), 0.01)
    ramp: Ramp | None = Field(None, title="Ramp")
    combine: Literal["replace", "multiply", "add", "screen", "overlay", "darker", "lighter", "average"] = choice(
        "replace", "Combined by",
        {"replace": "Replacing", "multiply": "Multiplying", "add": "Adding", "screen": "Screening",
         "overlay": "Overlaying", "darker": "The darker", "lighter": "The lighter", "average": "The mean"},
    )  # fmt: skip
    amount: float = quantity(1.0, "Amount", "", (0, 1), step=0.01)


Parameter = Literal[
    "base_color", "base_weight", "base_metalness", "base_diffuse_roughness", "specular_color", "specular_weight",
    "specular_ior", "specular_roughness", "specular_roughness_anisotropy", "tangent_rotation", "transmission_weight",
    "transmission_tint", "coat_weight", "coat_color", "coat_roughness", "coat_roughness_anisotropy", "coat_ior",
    "coat_darkening", "fuzz_weight", "fuzz_color", "fuzz_roughness", "emission_color", "emission_luminance",
    "geometry_opacity", "bump", "subsurface_weight", "subsurface_color", "thin_film_thickness",
]  # fmt: skip
"""What of a material takes an input: all but what makes a volume, or a table.

Light that is refracted, and thin films, go by the constant index of the gloss.
"""
PARAMETERS: tuple[Parameter, ...] = get_args(Parameter)


Inputs = Mapping[Parameter, MaterialInput]


def scaled_input(one: MaterialInput, ratio: float) -> MaterialInput:
    """The same on a part that is so many times as large, as far as the fields allow it."""
    placement = one.placement.model_copy(
        update={
            "size": min(max(one.placement.size * ratio, 1e-6), 1e4),
            "offset": tuple(min(max(v * ratio, -FAR), FAR) for v in one.placement.offset),
        }
    )
    source = one.source
    if isinstance(source, HeightSource):
        ends = {name: min(max(getattr(source, name) * ratio, -1e4), 1e4) for name in ("whole", "none")}
        source = source.model_copy(update=ends)
    if isinstance(source, WornSource):
        sizes = {name: min(max(getattr(source, name) * ratio, 1e-6), 1e3) for name in ("width", "grain")}
        source = source.model_copy(update=sizes)
    if isinstance(source, DistanceSource):
        ends = {name: min(getattr(source, name) * ratio, 1e3) for name in ("whole", "none")}
        source = source.model_copy(update=ends)
    if isinstance(source, OcclusionSource):
        source = source.model_copy(update={"reach": min(max(source.reach * ratio, 1e-6), 1e3)})
    return one.model_copy(update={"source": source, "placement": placement})


def with_texture(one: MaterialInput, number: Callable[[int], int | None]) -> MaterialInput | None:
    """An input whose image has another number; None when it has none."""
    if not isinstance(one.source, ImageSource):
        return one
    texture = number(one.source.texture)
    if texture is None:
        return None
    return one.model_copy(update={"source": one.source.model_copy(update={"texture": texture})})


def with_textures(inputs: Inputs, number: Callable[[int], int | None]) -> dict[Parameter, MaterialInput]:
    """Inputs whose images have other numbers; those whose image has none are left out."""
    found = ((name, with_texture(one, number)) for name, one in inputs.items())
    return {name: one for name, one in found if one is not None}


def picture_of(one: MaterialInput) -> FileRef | None:
    """The image of one's own that an input looks up."""
    return one.source.file if isinstance(one.source, FileSource) else None
