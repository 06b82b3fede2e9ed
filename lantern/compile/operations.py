"""The inputs of a material, its layers and, where it lies with others, its images, as operations for a program.

In: a material of the document. Out: `Operation`s by the stage that they are asked for in. Called by `input_rows`, which
writes them as rows.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

import numpy as np

from lantern.color import LUMINANCE
from lantern.compile.nearness import grid_name
from lantern.compile.pictures import Pictures
from lantern.pattern.images import LINEAR, SRGB
from lantern.pattern.material import MATERIAL
from lantern.pattern.program import CODES, LAYER
from lantern.pattern.tables import (
    CHOOSE,
    COMBINES,
    EVERYTHING,
    MULTIPLY,
    NEEDS_COLOR,
    NEEDS_EDGES,
    NEEDS_PLACE,
    NEEDS_VIEW,
    REPLACE,
    SCALE,
    SCALE_COLOR,
    STORE,
)
from lantern.scene import sources
from lantern.scene.decals import Decal
from lantern.scene.document import Material
from lantern.scene.inputs import PARAMETERS, MaterialInput, Parameter, Placement, Ramp
from lantern.scene.layers import Layer
from lantern.scene.texture_use import TextureUse
from lantern.surface.fresnel import LEAST_IOR

_CHANNELS = {"color": -1, "red": 0, "green": 1, "blue": 2, "alpha": 3}
_SLOTS = {
    "base_metalness": "metalness", "base_diffuse_roughness": "diffuse_roughness", "specular_roughness": "roughness",
    "specular_roughness_anisotropy": "anisotropy", "transmission_weight": "transmission", "transmission_tint": "tint",
    "coat_weight": "coat", "fuzz_weight": "fuzz", "emission_color": "emission", "emission_luminance": "emission",
    "geometry_opacity": "opacity", "subsurface_weight": "subsurface", "coat_roughness_anisotropy": "coat_anisotropy",
    "thin_film_thickness": "film", "base_weight": "base_color", "specular_ior": "own_ior",
    "tangent_rotation": "tangent_turn",
}  # fmt: skip
"""Slots of a material's row that are called otherwise than the parameter."""
_STAGES: dict[str, tuple[Parameter, ...]] = {
    "opacity": ("geometry_opacity",),
    "bump": ("bump",),
    # The colour first: the luminance multiplies what it stores.
    "emission": ("emission_color", "emission_luminance"),
}
_OTHERS = {name for names in _STAGES.values() for name in names}
STAGES: dict[str, tuple[Parameter, ...]] = {
    "surface": tuple(name for name in PARAMETERS if name not in _OTHERS),
    **_STAGES,
}
"""Parameters by the stage that they are asked for in. A layer is run through stages that follow one another."""
FILM_STEPS, THICKEST = 32, 10.0
"""Rows of a thin film whose thickness varies, of even steps; its greatest thickness [µm]."""
LEAST_FILM = 1e-3
"""µm: of one whose constant is 0 and whose thickness varies."""
LEAST_WEIGHT = 1e-6
"""Of a layer whose constant is 0 and which has an input: it must be there for the input to show."""
_BRIGHT = 1e6
_RANGES: dict[Parameter, tuple[float, float]] = {
    "bump": (-_BRIGHT, _BRIGHT), "emission_color": (0.0, _BRIGHT), "emission_luminance": (0.0, _BRIGHT),
    "specular_ior": (1.0, 3.0), "coat_ior": (float(LEAST_IOR), 3.0), "tangent_rotation": (-360.0, 360.0),
}  # fmt: skip
"""Of parameters whose values are not within 0 and 1."""
_FACTORS = ("base_weight", "emission_luminance")
"""Numbers that multiply the colour in their slot."""


@dataclass(frozen=True, eq=False)
class Frame:
    """Where a decal lies on a part: from the part's own space to widths from its middle, and what turns normals so."""

    matrix: np.ndarray  # (3, 4)
    turn: np.ndarray  # (3, 3)
    tall: float  # its height, in widths
    wraps: bool


@dataclass(frozen=True)
class Operation:
    """A row of OPERATION to be written, with the ramp and the placement that it has."""

    code: int
    target: int
    width: int = 1
    into: int = STORE
    goes_on: bool = False
    combine: int = REPLACE
    amount: float = 1.0
    constant: object = 0.0
    least: float = 0.0
    most: float = 1.0
    scale: object = 1.0
    low: float = 0.0
    high: float = 1.0
    image: int = 0
    channel: int = 0
    decoding: int = 0
    seed: int = 0
    numbers: tuple[float, ...] = ()
    row: int = 0
    first: int = 0
    run: int = 0
    ramp: Ramp | None = None
    placement: Placement | TextureUse | Frame | None = None
    needs: int = 0


Stages = dict[str, list[Operation]]


@dataclass(frozen=True)
class Laid:
    """A layer or a decal as it stands in the tables: the row of its material, where the operations of that stand."""

    masks: tuple[Operation, ...]
    """They bring the share of it to where it lies."""
    thickness: float  # m
    row: int
    look: tuple[int, int]  # first and count, of surface and opacity
    opacity: tuple[int, int]
    height: tuple[int, int]  # of opacity and bump
    needs: int
    has_height: bool
    steps: tuple[float, ...] = field(default=())
    """m between heights, as its own bump and its border ask for it."""


def lifted(material: Material) -> Material:
    """A material whose constants say of each layer with an input that it is there."""
    changes: dict[str, float] = {}
    for name in (
        "transmission_weight", "coat_weight", "fuzz_weight", "specular_roughness_anisotropy", "subsurface_weight",
        "coat_roughness_anisotropy",
    ):  # fmt: skip
        if name in material.inputs:
            changes[name] = max(getattr(material, name), LEAST_WEIGHT)
    if "thin_film_thickness" in material.inputs:
        changes["thin_film_thickness"] = max(material.thin_film_thickness, LEAST_FILM)
    if "base_weight" in material.inputs:
        changes["base_weight"] = max(material.base_weight, LEAST_WEIGHT)
    if "geometry_opacity" in material.inputs:
        changes["geometry_opacity"] = min(material.geometry_opacity, 1.0 - LEAST_WEIGHT)
    glow = material.inputs.get("emission_luminance")
    if glow is not None and material.emission_luminance == 0:
        # Lights are chosen by their constants: about what the input gives.
        changes["emission_luminance"] = max((glow.low + glow.high) / 2, LEAST_WEIGHT)
    return material.model_copy(update=changes) if changes else material


def stages_of(material: Material, pictures: Pictures, *, images: bool = False, holes: bool = False) -> Stages:
    """Operations of a material by itself; with `images` also those that a row has bindings for, with `holes` all.

    An input whose image cannot be had is left out.
    """
    found: Stages = {
        stage: [
            operation
            for name in names
            if name in material.inputs
            for operation in _of_parameter(name, material.inputs[name], material, pictures)
        ]
        for stage, names in STAGES.items()
    }
    if images:
        for stage, operation in _of_images(material, holes=holes):
            found[stage].append(operation)
    return found


def lay(stages: Stages, laid: Sequence[Laid], *, glows: bool) -> None:
    """Add to the stages of the lowest material what the layers make of it."""
    if not laid:
        return
    bump = MATERIAL.slot("bump")
    if any(one.has_height for one in laid) and not stages["bump"]:
        stages["bump"].append(Operation(CODES.index("constant"), bump, high=0.0))
    for one in laid:
        masks = one.masks
        stages["surface"] += [*masks, _layer(one, EVERYTHING, 0, one.look)]
        if stages["bump"]:
            stages["bump"] += [*masks, _layer(one, bump, 1, one.height)]
        if glows:
            stages["emission"] += [*masks, _layer(one, MATERIAL.slot("emission"), 3, one.opacity)]


def _layer(one: Laid, target: int, width: int, span: tuple[int, int]) -> Operation:
    first, run = span
    return Operation(LAYER, target, width, row=one.row, first=first, run=run, numbers=(one.thickness,), needs=one.needs)


def masks_of(layer: Layer, pictures: Pictures) -> Iterable[Operation]:
    """What brings the share of a layer to where it lies: its coverage, and the masks one after the other."""
    slot = MATERIAL.slot("mask")
    yield Operation(CODES.index("constant"), slot, high=layer.coverage)
    for number, one in enumerate(layer.inputs()):
        combine = "multiply" if number == 0 and one.combine == "replace" else one.combine
        yield from _of_input(one, slot, pictures, goes_on=True, combine=COMBINES.index(combine))


def masks_of_decal(decal: Decal, image: int, frame: Frame) -> tuple[Operation, ...]:
    """The same of a decal: its opacity, the alpha of its image, and the bounds of its frame."""
    slot = MATERIAL.slot("mask")
    common: dict[str, Any] = {
        "goes_on": True, "combine": MULTIPLY, "placement": frame, "needs": NEEDS_PLACE | NEEDS_VIEW,
    }  # fmt: skip
    reach = decal.depth / decal.width
    return (
        Operation(CODES.index("constant"), slot, high=decal.opacity),
        Operation(CODES.index("within"), slot, numbers=(reach, float(decal.both_sides)), **common),
        Operation(CODES.index("image"), slot, image=image, channel=3, decoding=LINEAR, **common),
    )


def color_of_decal(image: int, frame: Frame) -> Operation:
    """What a picture does to the colour of a decal."""
    return Operation(
        CODES.index("image"), MATERIAL.slot("base_color"), 3, SCALE, most=_BRIGHT, image=image, channel=-1,
        decoding=SRGB, placement=frame, needs=NEEDS_PLACE,
    )  # fmt: skip


def _of_parameter(name: Parameter, one: MaterialInput, material: Material, pictures: Pictures) -> tuple[Operation, ...]:
    if name == "thin_film_thickness":
        return _of_film(one, material, pictures)
    # What a value joins is the constant itself; the row that it is written to is that of the lifted material.
    value = 1.0 if name == "bump" else getattr(material, name)
    least, most = _RANGES.get(name, (0.0, 1.0))
    return _of_input(
        one,
        MATERIAL.slot(_SLOTS.get(name, name)),
        pictures,
        width=3 if isinstance(value, tuple) else 1,
        into=SCALE_COLOR if name in _FACTORS else STORE,
        constant=value,
        least=least,
        most=most,
        scale=scale_of(name, lifted(material)),
        combine=COMBINES.index(one.combine),
    )


def height_of(one: MaterialInput) -> tuple[Operation, ...]:
    """The operation of a pattern whose values are heights by themselves, in the slot of the bump."""
    told: dict[str, Any] = {"least": -_BRIGHT, "most": _BRIGHT, "amount": 1.0, "combine": REPLACE}
    return _of_input(one, MATERIAL.slot("bump"), Pictures(), **told)


def film_range(one: MaterialInput, material: Material) -> tuple[float, float]:
    """Least and greatest thickness [µm] that an input makes of a thin film."""
    own = material.thin_film_thickness
    ends = [one.low, one.high] if one.ramp is None else [float(np.dot(s.color, LUMINANCE)) for s in one.ramp.stops]
    ends.append(own)
    if one.combine in ("multiply", "add", "screen", "overlay"):
        ends += [each for end in ends for each in (own * end, own + end)]
    return max(min(ends), 0.0), min(max(ends), THICKEST)


def _of_film(one: MaterialInput, material: Material, pictures: Pictures) -> tuple[Operation, ...]:
    """It chooses a row of the film's table; `material_rows` says where those are."""
    least, most = film_range(one, material)
    told: dict[str, Any] = {
        "into": CHOOSE, "constant": material.thin_film_thickness, "least": least, "most": most, "run": FILM_STEPS,
    }  # fmt: skip
    return _of_input(one, MATERIAL.slot("film"), pictures, combine=COMBINES.index(one.combine), **told)


def _of_input(one: MaterialInput, target: int, pictures: Pictures, **told: Any) -> tuple[Operation, ...]:
    """The operation of an input; none where its image cannot be had."""
    source, code = one.source, one.source.kind
    image: dict[str, Any] = {}
    if isinstance(source, sources.ImageSource):
        image = {
            "image": source.texture,
            "channel": _CHANNELS[source.channel],
            "decoding": SRGB if source.decoding == "srgb" else LINEAR,
        }
    if isinstance(source, sources.FileSource):
        number = pictures.of_source(source)
        if number is None:
            return ()
        image = {"image": number, "channel": -1, "decoding": SRGB}
        if isinstance(source, sources.PictureSource):
            # Once it is decoded, an image of one's own is as any.
            code = "image"
            image |= {
                "channel": _CHANNELS[source.channel],
                "decoding": SRGB if source.decoding == "srgb" else LINEAR,
            }
    if grid_name(one) is not None or isinstance(source, sources.DistanceSource):
        image = {"image": pictures.near.number_of(one)}
    values: dict[str, Any] = {
        "amount": one.amount, "low": one.low, "high": one.high, "ramp": one.ramp, "placement": one.placement,
        "seed": getattr(source, "seed", 0), "numbers": numbers_of(source), "needs": needs_of(one),
    }  # fmt: skip
    return (Operation(CODES.index(code), target, **(values | image | told)),)


def _of_images(material: Material, *, holes: bool) -> Iterable[tuple[str, Operation]]:
    """What a row's bindings do to what its parameters are (glTF 2.0, section 3.9: each multiplies)."""
    color, rough = material.base_color_texture, material.metallic_roughness_texture
    if color is not None:
        yield "surface", _of_use(color, "base_color", None)
        if holes and material.alpha_mode != "opaque":
            yield "opacity", _of_use(color, "opacity", 3)
    if material.vertex_colors:
        yield (
            "surface",
            Operation(
                CODES.index("vertex_color"), MATERIAL.slot("base_color"), 3, SCALE, most=_BRIGHT, needs=NEEDS_COLOR
            ),
        )
    if rough is not None:
        yield "surface", _of_use(rough, "roughness", 1)
        yield "surface", _of_use(rough, "metalness", 2)
    if material.transmission_texture is not None:
        yield "surface", _of_use(material.transmission_texture, "transmission", 0)
    if material.transmission_tint_texture is not None:
        yield "surface", _of_use(material.transmission_tint_texture, "tint", None)
    if material.emission_texture is not None:
        yield "emission", _of_use(material.emission_texture, "emission", None)


def _of_use(use: TextureUse, slot: str, channel: int | None) -> Operation:
    """An image that multiplies a slot: its colours, or the numbers of one channel."""
    return Operation(
        CODES.index("image"), MATERIAL.slot(slot), 3 if channel is None else 1, SCALE, most=_BRIGHT,
        image=use.texture, channel=-1 if channel is None else channel, decoding=SRGB if channel is None else LINEAR,
        placement=use, needs=1 << use.uv_set,
    )  # fmt: skip


def scale_of(name: Parameter, material: Material) -> np.ndarray:
    """What the value of a parameter of a lifted material is multiplied by to become a slot of its row."""
    match name:
        case "base_color":
            scale: object = material.base_weight
        case "base_weight":
            scale = 1.0 / material.base_weight
        case "emission_color":
            scale = material.emission_luminance
        case "emission_luminance":
            scale = 1.0 / material.emission_luminance
        case "transmission_tint":
            by_depth = material.transmission_depth > 0 and not material.geometry_thin_walled
            scale = (1.0, 1.0, 1.0) if by_depth else material.transmission_color
        case "bump":
            scale = material.bump
        case _:
            scale = 1.0
    return np.broadcast_to(np.asarray(scale, np.float32), (3,))


def numbers_of(source: sources.Source) -> tuple[float, ...]:
    """What the kernel of a source is told: of a pattern its fields in their order, words by their places."""
    match source:
        case sources.SlopeSource():
            whole, none = (math.cos(math.radians(angle)) for angle in (source.whole, source.none))
            return whole, _apart(none, whole)
        case sources.HeightSource():
            return source.whole, _apart(source.none, source.whole)
        case sources.OcclusionSource():
            return source.reach, source.strength
        case sources.DistanceSource():
            return source.whole, _apart(source.none, source.whole)
        case sources.ChanceSource():
            return (float(source.each == "copy"),)
        case sources.LitBallSource():
            return math.radians(source.hue), source.saturation - 1.0, math.radians(source.turn)
        case sources.FileSource():
            return math.radians(source.hue), source.saturation - 1.0
        case sources.PatternSource() | sources.WornSource():
            names = [name for name in type(source).model_fields if name not in ("kind", "seed")]
            return tuple(_number(source, name) for name in names)
    return ()


def _number(source: sources.Source, name: str) -> float:
    value = getattr(source, name)
    if isinstance(value, str):
        return float(get_args(type(source).model_fields[name].annotation).index(value))
    return float(value)


def _apart(none: float, whole: float) -> float:
    """The end of a passage, which must not be its beginning."""
    return none if abs(none - whole) > 1e-6 else whole - 1e-6


def needs_of(one: MaterialInput) -> int:
    """Bits of what a POINT must hold for an input."""
    if one.source.kind == "vertex_color":
        return NEEDS_COLOR
    if isinstance(one.source, sources.LitBallSource):
        return NEEDS_VIEW
    if isinstance(one.source, sources.WornSource):
        return NEEDS_EDGES | NEEDS_PLACE
    if one.source.kind in sources.PLACED and one.placement.kind == "uv":
        return 1 << one.placement.uv_set
    return NEEDS_PLACE
