"""Inputs: what a parameter of a material takes instead of, or together with, its constant.

A source says a value for each place: an image, a pattern, or something that the mesh knows. Its placement says how it
lies there, a ramp what its values mean, and the way of combining what becomes of the constant.
"""

from collections.abc import Callable, Mapping
from typing import Annotated, Literal, get_args

from pydantic import AfterValidator, Field

from lantern.scene.fields import FAR, Finite, LightColor, choice, count, place, quantity
from lantern.scene.model import Model


class Source(Model):
    """Something that has a value at each place; patterns and grey images lie within 0 and 1."""


class ImageSource(Source):
    """An image of the asset: its colours, or one channel of it."""

    kind: Literal["image"] = "image"
    texture: int = Field(0, ge=0, lt=1 << 31, title="Texture number in the asset")
    channel: Literal["color", "red", "green", "blue", "alpha"] = choice(
        "color", "Channel", {"color": "Colour", "red": "Red", "green": "Green", "blue": "Blue", "alpha": "Alpha"}
    )
    decoding: Literal["srgb", "linear"] = choice("srgb", "Stored as", {"srgb": "sRGB", "linear": "Linear"})


class VertexColorSource(Source):
    """The colours of the vertices."""

    kind: Literal["vertex_color"] = "vertex_color"


class ChanceSource(Source):
    """A number of its own for each part."""

    kind: Literal["chance"] = "chance"
    seed: int = count(1, "Seed", "", (0, 2**31 - 1), (0, 100))


class SlopeSource(Source):
    """1 where the surface looks up, 0 from some slope on; the shape as it stands at rest."""

    kind: Literal["slope"] = "slope"
    whole: float = quantity(20.0, "Whole up to a slope of", "°", (0, 180), (0, 90), 1)
    none: float = quantity(50.0, "None from a slope of", "°", (0, 180), (0, 90), 1)


class HeightSource(Source):
    """1 up to some height, 0 from another on; in the scene, as it stands at rest."""

    kind: Literal["height"] = "height"
    whole: float = quantity(0.0, "Whole up to", "m", (-1e4, 1e4), (0, 0.5), 0.001)
    none: float = quantity(0.05, "None from", "m", (-1e4, 1e4), (0, 0.5), 0.001)


class WornSource(Source):
    """1 at the sharp edges of a shape and 0 at some width from them, with a border that a noise breaks up.

    What is round counts as near an edge as far as its curvature asks for: all of it where its radius is the width.
    """

    width: float = quantity(0.002, "Width", "m", (1e-6, 1e3), (0.0001, 0.02), 0.0001)
    contrast: float = quantity(0.6, "Contrast", "", (0, 1), step=0.01)
    breakup: float = quantity(0.5, "Broken up by", "", (0, 1), step=0.01)
    grain: float = quantity(0.002, "Grain of that", "m", (1e-6, 1e3), (0.0001, 0.02), 0.0001)
    seed: int = count(1, "Seed", "", (0, 2**31 - 1), (0, 100))


class EdgesSource(WornSource):
    """Edges that stick out: where paint wears off first."""

    kind: Literal["edges"] = "edges"


class CrevicesSource(WornSource):
    """Edges that lead inwards: where dust stays."""

    kind: Literal["crevices"] = "crevices"


class PatternSource(Source):
    """Something computed for each place, one repeat of it or its largest feature being one size of its placement."""


class SeededSource(PatternSource):
    """A pattern that chance has a part in."""

    seed: int = count(1, "Seed", "", (0, 2**31 - 1), (0, 100))


class NoiseSource(SeededSource):
    kind: Literal["noise"] = "noise"
    octaves: int = count(4, "Octaves", "", (1, 8), (1, 8))
    gain: float = quantity(0.5, "Finer octaves keep", "", (0, 1), step=0.01)
    contrast: float = quantity(1.0, "Contrast", "×", (0, 20), (0.2, 5), 0.05)


class CellsSource(SeededSource):
    kind: Literal["cells"] = "cells"
    shows: Literal["middles", "borders", "cells"] = choice(
        "middles", "Shows", {"middles": "Middles", "borders": "Borders", "cells": "Cells"}
    )
    irregularity: float = quantity(1.0, "Irregularity", "", (0, 1), step=0.01)


class GradientSource(PatternSource):
    kind: Literal["gradient"] = "gradient"
    repeats: bool = choice(False, "Goes back and forth")


class ChecksSource(PatternSource):
    kind: Literal["checks"] = "checks"


class StripesSource(PatternSource):
    kind: Literal["stripes"] = "stripes"
    width: float = quantity(0.5, "Width", "", (0.01, 0.99), step=0.01)
    softness: float = quantity(0.05, "Softness", "", (0, 1), step=0.01)


class DotsSource(PatternSource):
    kind: Literal["dots"] = "dots"
    radius: float = quantity(0.3, "Radius", "", (0.01, 0.7), step=0.01)
    softness: float = quantity(0.05, "Softness", "", (0, 1), step=0.01)
    staggered: bool = choice(True, "Staggered")


class TilesSource(SeededSource):
    kind: Literal["tiles"] = "tiles"
    joint: float = quantity(0.04, "Joint", "", (0, 0.5), step=0.005)
    bevel: float = quantity(0.02, "Bevel", "", (0, 0.5), step=0.005)
    shift: float = quantity(0.5, "Rows shifted by", "", (0, 1), step=0.05)
    variation: float = quantity(0.2, "Tiles differ by", "", (0, 1), step=0.01)


class WeaveSource(PatternSource):
    kind: Literal["weave"] = "weave"
    binding: Literal["plain", "twill", "satin"] = choice(
        "plain", "Binding", {"plain": "Plain", "twill": "Twill", "satin": "Satin"}
    )
    gap: float = quantity(0.06, "Gap", "", (0, 0.5), step=0.01)
    roundness: float = quantity(0.8, "Roundness", "", (0, 1), step=0.01)


class BrushedSource(SeededSource):
    kind: Literal["brushed"] = "brushed"
    length: float = quantity(40.0, "Length of a line", "×", (1, 1000), (5, 200), 1)
    radial: bool = choice(False, "Around the middle")


class WoodSource(SeededSource):
    kind: Literal["wood"] = "wood"
    waviness: float = quantity(0.3, "Waviness", "", (0, 2), (0, 1), 0.01)
    pores: float = quantity(0.3, "Pores", "", (0, 1), step=0.01)


class MarbleSource(SeededSource):
    kind: Literal["marble"] = "marble"
    turbulence: float = quantity(1.5, "Turbulence", "", (0, 10), (0, 4), 0.05)
    thinness: float = quantity(2.0, "Thinness of veins", "", (0.5, 20), (0.5, 8), 0.1)


class ScratchesSource(SeededSource):
    kind: Literal["scratches"] = "scratches"
    width: float = quantity(0.015, "Width", "", (0.001, 0.2), (0.001, 0.1), 0.001)
    chance: float = quantity(0.5, "Number", "", (0, 1), step=0.01)
    spread: float = quantity(1.0, "Directions", "", (0, 1), step=0.01)


class SmudgesSource(SeededSource):
    kind: Literal["smudges"] = "smudges"
    coverage: float = quantity(0.4, "Coverage", "", (0, 1), step=0.01)
    streaks: float = quantity(0.3, "Streaks", "", (0, 1), step=0.01)


class FingerprintsSource(SeededSource):
    kind: Literal["fingerprints"] = "fingerprints"
    chance: float = quantity(0.5, "Number", "", (0, 1), step=0.01)
    ridges: float = quantity(34.0, "Ridges", "", (5, 100), (15, 60), 1)


class DentsSource(SeededSource):
    kind: Literal["dents"] = "dents"
    chance: float = quantity(0.5, "Number", "", (0, 1), step=0.01)
    radius: float = quantity(0.6, "Largest", "", (0.01, 1), step=0.01)


class DropsSource(SeededSource):
    kind: Literal["drops"] = "drops"
    chance: float = quantity(0.5, "Number", "", (0, 1), step=0.01)
    radius: float = quantity(0.4, "Largest", "", (0.01, 1), step=0.01)


class FlakesSource(SeededSource):
    kind: Literal["flakes"] = "flakes"
    tilt: float = quantity(0.5, "Tilt", "", (0, 1), step=0.01)


class KnurlSource(PatternSource):
    kind: Literal["knurl"] = "knurl"
    straight: bool = choice(False, "Straight")
    flat: float = quantity(0.2, "Flat tops", "", (0, 0.95), step=0.01)


class KnitSource(PatternSource):
    kind: Literal["knit"] = "knit"
    slant: float = quantity(0.6, "Slant", "", (0, 2), (0, 1.5), 0.01)
    gap: float = quantity(0.1, "Gap", "", (0, 0.9), (0, 0.5), 0.01)


class LeatherSource(SeededSource):
    kind: Literal["leather"] = "leather"
    crease: float = quantity(0.35, "Width of creases", "", (0.01, 1), step=0.01)
    fine: float = quantity(0.3, "Finer grain", "", (0, 1), step=0.01)


AnySource = Annotated[
    ImageSource | EdgesSource | CrevicesSource | VertexColorSource | ChanceSource | SlopeSource | HeightSource
    | NoiseSource | CellsSource
    | GradientSource | ChecksSource | StripesSource | DotsSource | TilesSource | WeaveSource | BrushedSource
    | WoodSource | MarbleSource | ScratchesSource | SmudgesSource | FingerprintsSource | DentsSource | DropsSource
    | FlakesSource | KnurlSource | KnitSource | LeatherSource,
    Field(discriminator="kind"),
]  # fmt: skip
SourceKind = Literal[
    "image", "edges", "crevices", "vertex_color", "chance", "slope", "height", "noise", "cells", "gradient", "checks",
    "stripes", "dots", "tiles", "weave", "knit", "leather", "brushed", "knurl", "wood", "marble", "scratches",
    "smudges", "fingerprints", "dents", "drops", "flakes",
]  # fmt: skip
SOURCES: dict[SourceKind, type[Source]] = {
    model.model_fields["kind"].default: model for model in get_args(get_args(AnySource)[0])
}
"""Every kind of source by its name."""
LABELS: dict[SourceKind, str] = {
    "image": "Image", "edges": "Edges", "crevices": "Crevices", "vertex_color": "Vertex colours",
    "chance": "Chance, by part", "slope": "Slope",
    "height": "Height", "noise": "Noise", "cells": "Cells", "gradient": "Gradient", "checks": "Checks",
    "stripes": "Stripes", "dots": "Dots", "tiles": "Tiles", "weave": "Weave", "brushed": "Brushed lines",
    "wood": "Wood", "marble": "Marble", "knit": "Knit", "leather": "Grain of leather", "knurl": "Knurl",
    "scratches": "Scratches", "smudges": "Smudges", "fingerprints": "Fingerprints", "dents": "Dents", "drops": "Drops",
    "flakes": "Flakes",
}  # fmt: skip
"""What the kinds are called."""
PLACED: set[SourceKind] = {kind for kind, model in SOURCES.items() if issubclass(model, PatternSource)} | {"image"}
"""Kinds that need a placement."""


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
    "base_color", "base_metalness", "base_diffuse_roughness", "specular_color", "specular_roughness",
    "specular_roughness_anisotropy", "transmission_weight", "transmission_tint", "coat_weight", "coat_color",
    "coat_roughness", "fuzz_weight", "fuzz_color", "fuzz_roughness", "emission_color", "emission_luminance",
    "geometry_opacity", "bump",
]  # fmt: skip
"""What of a material takes an input."""
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
