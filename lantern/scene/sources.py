"""Sources of inputs: what has a value at each place, be it an image, a pattern, or something that the mesh knows."""

from typing import Annotated, Literal, get_args

from pydantic import Field

from lantern.scene.fields import choice, count, quantity
from lantern.scene.model import FileRef, Key, Model


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


class FileSource(Source):
    """An image of one's own, by its file; None for none yet, which changes nothing."""

    file: FileRef | None = None
    hue: float = quantity(0.0, "Hue turned by", "°", (-360, 360), (-180, 180), 1)
    saturation: float = quantity(1.0, "Saturation", "×", (0, 10), (0, 2), 0.01, "linear")


class PictureSource(FileSource):
    """An image of one's own: its colours, or one channel of it."""

    kind: Literal["picture"] = "picture"
    channel: Literal["color", "red", "green", "blue", "alpha"] = choice(
        "color", "Channel", {"color": "Colour", "red": "Red", "green": "Green", "blue": "Blue", "alpha": "Alpha"}
    )
    decoding: Literal["srgb", "linear"] = choice("srgb", "Stored as", {"srgb": "sRGB", "linear": "Linear"})
    wrap: Literal["repeat", "mirror", "clamp"] = choice(
        "repeat", "Beyond its edges", {"repeat": "Again", "mirror": "Mirrored", "clamp": "Its edge"}
    )
    nearest: bool = choice(False, "Texels kept hard")


class LitBallSource(FileSource):
    """The picture of a lit ball that fills its image, looked up by the normal as the camera sees it."""

    kind: Literal["lit_ball"] = "lit_ball"
    turn: float = quantity(0.0, "Turned by", "°", (-360, 360), (-180, 180), 1)


class VertexColorSource(Source):
    """The colours of the vertices."""

    kind: Literal["vertex_color"] = "vertex_color"


class ChanceSource(Source):
    """A number of its own for each part, or for each copy of one that is strewn."""

    kind: Literal["chance"] = "chance"
    each: Literal["part", "copy"] = choice("copy", "Another for each", {"part": "Part", "copy": "Copy"})
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


class OcclusionSource(Source):
    """1 where all before a place is hidden, 0 where nothing is: in corners and gaps, of the scene at rest."""

    kind: Literal["occlusion"] = "occlusion"
    reach: float = quantity(0.02, "Looks as far as", "m", (1e-6, 1e3), (0.001, 0.2), 0.001)
    strength: float = quantity(1.5, "Strength", "×", (0, 20), (0, 5), 0.05, "linear")


class DistanceSource(Source):
    """1 up to some distance from another part, 0 from another on; None is no part yet, and 0 everywhere."""

    kind: Literal["distance"] = "distance"
    part: Key | None = None
    whole: float = quantity(0.0, "Whole up to", "m", (0, 1e3), (0, 0.05), 0.0005)
    none: float = quantity(0.01, "None from", "m", (0, 1e3), (0, 0.1), 0.0005)


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
    ImageSource | PictureSource | LitBallSource
    | EdgesSource | CrevicesSource | OcclusionSource | DistanceSource
    | VertexColorSource | ChanceSource | SlopeSource | HeightSource
    | NoiseSource | CellsSource
    | GradientSource | ChecksSource | StripesSource | DotsSource | TilesSource | WeaveSource | BrushedSource
    | WoodSource | MarbleSource | ScratchesSource | SmudgesSource | FingerprintsSource | DentsSource | DropsSource
    | FlakesSource | KnurlSource | KnitSource | LeatherSource,
    Field(discriminator="kind"),
]  # fmt: skip
SourceKind = Literal[
    "image", "picture", "lit_ball",
    "edges", "crevices", "occlusion", "distance",
    "vertex_color", "chance", "slope", "height", "noise", "cells", "gradient", "checks",
    "stripes", "dots", "tiles", "weave", "knit", "leather", "brushed", "knurl", "wood", "marble", "scratches",
    "smudges", "fingerprints", "dents", "drops", "flakes",
]  # fmt: skip
SOURCES: dict[SourceKind, type[Source]] = {
    model.model_fields["kind"].default: model for model in get_args(get_args(AnySource)[0])
}
"""Every kind of source by its name."""
LABELS: dict[SourceKind, str] = {
    "image": "Image of the asset", "picture": "Image of one’s own", "lit_ball": "Lit ball",
    "edges": "Edges", "crevices": "Crevices", "occlusion": "Occlusion", "distance": "Distance to a part",
    "vertex_color": "Vertex colours",
    "chance": "Chance", "slope": "Slope",
    "height": "Height", "noise": "Noise", "cells": "Cells", "gradient": "Gradient", "checks": "Checks",
    "stripes": "Stripes", "dots": "Dots", "tiles": "Tiles", "weave": "Weave", "brushed": "Brushed lines",
    "wood": "Wood", "marble": "Marble", "knit": "Knit", "leather": "Grain of leather", "knurl": "Knurl",
    "scratches": "Scratches", "smudges": "Smudges", "fingerprints": "Fingerprints", "dents": "Dents", "drops": "Drops",
    "flakes": "Flakes",
}  # fmt: skip
"""What the kinds are called."""
PLACED: set[SourceKind] = {kind for kind, model in SOURCES.items() if issubclass(model, PatternSource)} | {
    "image",
    "picture",
}
"""Kinds that need a placement."""
