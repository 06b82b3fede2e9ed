"""The inputs of a material, its layers and, where it lies with others, its images, as operations for a program.

In: a material of the document. Out: `Operation`s by the stage that they are asked for in. Called by `input_rows`, which
writes them as rows.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

import numpy as np

from lantern.pattern.images import LINEAR, SRGB
from lantern.pattern.material import MATERIAL
from lantern.pattern.program import CODES, LAYER
from lantern.pattern.tables import (
    COMBINES,
    EVERYTHING,
    NEEDS_COLOR,
    NEEDS_EDGES,
    NEEDS_PLACE,
    REPLACE,
    SCALE,
    SCALE_COLOR,
    STORE,
)
from lantern.scene import inputs
from lantern.scene.document import Material
from lantern.scene.inputs import PARAMETERS, MaterialInput, Parameter, Placement, Ramp
from lantern.scene.layers import Layer
from lantern.scene.texture_use import TextureUse

_CHANNELS = {"color": -1, "red": 0, "green": 1, "blue": 2, "alpha": 3}
_SLOTS = {
    "base_metalness": "metalness", "base_diffuse_roughness": "diffuse_roughness", "specular_roughness": "roughness",
    "specular_roughness_anisotropy": "anisotropy", "transmission_weight": "transmission", "transmission_tint": "tint",
    "coat_weight": "coat", "fuzz_weight": "fuzz", "emission_color": "emission", "emission_luminance": "emission",
    "geometry_opacity": "opacity",
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
LEAST_WEIGHT = 1e-6
"""Of a layer whose constant is 0 and which has an input: it must be there for the input to show."""
_BRIGHT = 1e6


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
    placement: Placement | TextureUse | None = None
    needs: int = 0


Stages = dict[str, list[Operation]]


@dataclass(frozen=True)
class Laid:
    """A layer as it stands in the tables: the row of its material, and where the operations of that stand."""

    layer: Layer
    row: int
    look: tuple[int, int]  # first and count, of surface and opacity
    opacity: tuple[int, int]
    height: tuple[int, int]  # of opacity and bump
    needs: int
    has_height: bool
    steps: tuple[float, ...] = field(default=())
    """m between heights, as its own bump asks for it."""


def lifted(material: Material) -> Material:
    """A material whose constants say of each layer with an input that it is there."""
    changes: dict[str, float] = {}
    for name in ("transmission_weight", "coat_weight", "fuzz_weight", "specular_roughness_anisotropy"):
        if name in material.inputs:
            changes[name] = max(getattr(material, name), LEAST_WEIGHT)
    if "geometry_opacity" in material.inputs:
        changes["geometry_opacity"] = min(material.geometry_opacity, 1.0 - LEAST_WEIGHT)
    glow = material.inputs.get("emission_luminance")
    if glow is not None and material.emission_luminance == 0:
        # Lights are chosen by their constants: about what the input gives.
        changes["emission_luminance"] = max((glow.low + glow.high) / 2, LEAST_WEIGHT)
    return material.model_copy(update=changes) if changes else material


def stages_of(material: Material, *, images: bool = False, holes: bool = False) -> Stages:
    """Operations of a material by itself; with `images` also those that a row has bindings for, with `holes` all."""
    found: Stages = {
        stage: [_of_parameter(name, material.inputs[name], material) for name in names if name in material.inputs]
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
        masks = list(_masks(one.layer))
        stages["surface"] += [*masks, _layer(one, EVERYTHING, 0, one.look)]
        if stages["bump"]:
            stages["bump"] += [*masks, _layer(one, bump, 1, one.height)]
        if glows:
            stages["emission"] += [*masks, _layer(one, MATERIAL.slot("emission"), 3, one.opacity)]


def _layer(one: Laid, target: int, width: int, span: tuple[int, int]) -> Operation:
    first, run = span
    return Operation(
        LAYER, target, width, row=one.row, first=first, run=run, numbers=(one.layer.thickness,), needs=one.needs
    )


def _masks(layer: Layer) -> Iterable[Operation]:
    """What brings the share of a layer to where it lies: its coverage, and the masks one after the other."""
    slot = MATERIAL.slot("mask")
    yield Operation(CODES.index("constant"), slot, high=layer.coverage)
    for number, one in enumerate(layer.inputs()):
        combine = "multiply" if number == 0 and one.combine == "replace" else one.combine
        yield _of_input(one, slot, goes_on=True, combine=COMBINES.index(combine))


def _of_parameter(name: Parameter, one: MaterialInput, material: Material) -> Operation:
    # What a value joins is the constant itself; the row that it is written to is that of the lifted material.
    value = 1.0 if name == "bump" else getattr(material, name)
    return _of_input(
        one,
        MATERIAL.slot(_SLOTS.get(name, name)),
        width=3 if isinstance(value, tuple) else 1,
        into=SCALE_COLOR if name == "emission_luminance" else STORE,
        constant=value,
        least=-_BRIGHT if name == "bump" else 0.0,
        most=_BRIGHT if name in ("emission_color", "emission_luminance", "bump") else 1.0,
        scale=scale_of(name, lifted(material)),
        combine=COMBINES.index(one.combine),
    )


def _of_input(one: MaterialInput, target: int, **told: Any) -> Operation:
    source = one.source
    image: dict[str, Any] = {}
    if isinstance(source, inputs.ImageSource):
        image = {
            "image": source.texture,
            "channel": _CHANNELS[source.channel],
            "decoding": SRGB if source.decoding == "srgb" else LINEAR,
        }
    values: dict[str, Any] = {
        "amount": one.amount, "low": one.low, "high": one.high, "ramp": one.ramp, "placement": one.placement,
        "seed": getattr(source, "seed", 0), "numbers": numbers_of(source), "needs": needs_of(one),
    }  # fmt: skip
    return Operation(CODES.index(source.kind), target, **(values | image | told))


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


def numbers_of(source: inputs.Source) -> tuple[float, ...]:
    """What the kernel of a source is told: of a pattern its fields in their order, words by their places."""
    match source:
        case inputs.SlopeSource():
            whole, none = (math.cos(math.radians(angle)) for angle in (source.whole, source.none))
            return whole, _apart(none, whole)
        case inputs.HeightSource():
            return source.whole, _apart(source.none, source.whole)
        case inputs.PatternSource() | inputs.WornSource():
            names = [name for name in type(source).model_fields if name not in ("kind", "seed")]
            return tuple(_number(source, name) for name in names)
    return ()


def _number(source: inputs.Source, name: str) -> float:
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
    if isinstance(one.source, inputs.WornSource):
        return NEEDS_EDGES | NEEDS_PLACE
    if one.source.kind in inputs.PLACED and one.placement.kind == "uv":
        return 1 << one.placement.uv_set
    return NEEDS_PLACE
