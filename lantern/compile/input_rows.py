"""The inputs of materials as rows of operations, placements and ramps.

In: a material and where its operations are to stand. Out: rows of `OPERATION`, `PLACEMENT` and `RAMP`, and what a POINT
must hold for them. Called by `material_rows`. Each material with inputs has a span of rows, one a parameter, so that an
edit rewrites that span alone.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import get_args

import numpy as np

from lantern.kernel.memory import Table
from lantern.pattern.program import CODES
from lantern.pattern.tables import (
    BY_BOX,
    BY_CYLINDER,
    BY_PLANE,
    BY_SPHERE,
    BY_UV,
    COMBINES,
    LINEAR_RAMP,
    NEEDS_COLOR,
    NEEDS_PLACE,
    OPERATION,
    PLACEMENT,
    RAMP,
    SCALE,
    SMOOTH_RAMP,
    STEPS,
    STORE,
)
from lantern.scene import inputs
from lantern.scene.document import Material
from lantern.scene.inputs import PARAMETERS, MaterialInput, Parameter, Placement, Ramp
from lantern.scene.turning import turn_matrix
from lantern.surface.material import MATERIAL

_KINDS = {"uv": BY_UV, "box": BY_BOX, "plane": BY_PLANE, "cylinder": BY_CYLINDER, "sphere": BY_SPHERE}
_BLENDS = {"linear": LINEAR_RAMP, "smooth": SMOOTH_RAMP, "steps": STEPS}
_CHANNELS = {"color": -1, "red": 0, "green": 1, "blue": 2, "alpha": 3}
_SLOTS = {
    "base_metalness": "metalness", "base_diffuse_roughness": "diffuse_roughness", "specular_roughness": "roughness",
    "specular_roughness_anisotropy": "anisotropy", "transmission_weight": "transmission", "transmission_tint": "tint",
    "coat_weight": "coat", "fuzz_weight": "fuzz", "emission_color": "emission", "emission_luminance": "emission",
    "geometry_opacity": "opacity",
}  # fmt: skip
"""Slots of a material's row that are called otherwise than the parameter."""
STAGES: dict[str, tuple[Parameter, ...]] = {
    "opacity": ("geometry_opacity",),
    # The colour first: the luminance multiplies what it stores.
    "emission": ("emission_color", "emission_luminance"),
    "bump": ("bump",),
}
_OTHERS = {name for names in STAGES.values() for name in names}
STAGES = {"surface": tuple(name for name in PARAMETERS if name not in _OTHERS), **STAGES}
"""Parameters by the stage that they are asked for in."""
LEAST_WEIGHT = 1e-6
"""Of a layer whose constant is 0 and which has an input: it must be there for the input to show."""
_BRIGHT = 1e6
_STEPS_A_REPEAT = 256.0
"""Of the places whose heights are compared: as fine as the finest scratch. Of an image they are texels."""


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


@dataclass(frozen=True)
class Needs:
    """Bits of what a POINT must hold: for everything, for the opacity, for the light of the operations themselves."""

    everything: int = 0
    opacity: int = 0
    emission: int = 0


class InputRows:
    """Spans of rows of the materials that have inputs."""

    def __init__(self, texels: Sequence[int] = ()) -> None:
        """`texels` are those along the longer side of each image."""
        self._texels = texels
        self._spans: dict[int, int] = {}
        self.operations, self.placements, self.ramps = OPERATION.zeros(0), PLACEMENT.zeros(0), RAMP.zeros(0)

    def write(self, number: int, row: np.ndarray, material: Material) -> Needs:
        """Write the operations of material `number`, whose row is told where they stand."""
        for stage in STAGES:
            row[f"{stage}_count"] = 0
        if not material.inputs:
            return Needs()
        at = self._span(number)
        needs = dict.fromkeys(STAGES, 0)
        for stage, names in STAGES.items():
            row[f"{stage}_first"] = at
            for name in names:
                if name not in material.inputs:
                    continue
                one = material.inputs[name]
                self._write(at, name, one, material)
                needs[stage] |= needs_of(one)
                row[f"{stage}_count"] += 1
                at += 1
        if bump := material.inputs.get("bump"):
            row["bump_step"], row["bump_set"] = self._bump_step(bump)
        everything = needs["surface"] | needs["opacity"] | needs["emission"] | needs["bump"]
        return Needs(everything, needs["opacity"], needs["emission"])

    def _bump_step(self, one: MaterialInput) -> tuple[float, int]:
        """How far apart places lie whose heights give the slope, in metres, -1; or in coordinates, and of which set."""
        image = one.source.texture if isinstance(one.source, inputs.ImageSource) else None
        repeats = 1.0 / (_STEPS_A_REPEAT if image is None else self._texels[image])
        if one.source.kind in inputs.PLACED and one.placement.kind == "uv":
            return repeats / one.placement.repeats, one.placement.uv_set
        return repeats * one.placement.size, -1

    def _span(self, number: int) -> int:
        if number not in self._spans:
            self._spans[number] = len(self._spans) * len(PARAMETERS)
            wanted = len(self._spans) * len(PARAMETERS)
            self.operations = _grown(self.operations, OPERATION, wanted)
            self.placements = _grown(self.placements, PLACEMENT, wanted)
            self.ramps = _grown(self.ramps, RAMP, wanted)
        return self._spans[number]

    def _write(self, at: int, name: Parameter, one: MaterialInput, material: Material) -> None:
        operation = self.operations[at]
        operation["code"], operation["seed"] = CODES.index(one.source.kind), getattr(one.source, "seed", 0)
        operation["numbers"] = 0.0
        numbers = numbers_of(one.source)
        operation["numbers"][: len(numbers)] = numbers
        if isinstance(one.source, inputs.ImageSource):
            operation["image"], operation["channel"] = one.source.texture, _CHANNELS[one.source.channel]
            operation["decoding"] = one.source.decoding == "srgb"
        operation["target"] = MATERIAL.slot(_SLOTS.get(name, name))
        operation["combine"], operation["amount"] = COMBINES.index(one.combine), one.amount
        operation["low"], operation["high"] = one.low, one.high
        operation["into"] = SCALE if name == "emission_luminance" else STORE
        # What a value joins is the constant itself; the row that it is written to is that of the lifted material.
        value = 1.0 if name == "bump" else getattr(material, name)
        operation["width"], operation["constant"] = (3 if isinstance(value, tuple) else 1), value
        operation["least"], operation["most"] = (-_BRIGHT if name == "bump" else 0.0), 1.0
        if name in ("emission_color", "emission_luminance", "bump"):
            operation["most"] = _BRIGHT
        operation["scale"] = scale_of(name, lifted(material))
        operation["ramp"] = -1 if one.ramp is None else at
        if one.ramp is not None:
            _write_ramp(self.ramps[at], one.ramp)
        operation["placement"] = at
        _write_placement(self.placements[at], one.placement)


def _grown(rows: np.ndarray, table: Table, wanted: int) -> np.ndarray:
    if wanted <= len(rows):
        return rows
    larger = table.zeros(max(2 * len(rows), wanted))
    larger[: len(rows)] = rows
    return larger


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
        case inputs.PatternSource():
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
    if one.source.kind in inputs.PLACED and one.placement.kind == "uv":
        return 1 << one.placement.uv_set
    return NEEDS_PLACE


def _write_ramp(row: np.ndarray, ramp: Ramp) -> None:
    row["count"], row["blend"] = len(ramp.stops), _BLENDS[ramp.blend]
    for number, stop in enumerate(ramp.stops):
        row["at"][number] = stop.at
        row["color"][3 * number : 3 * number + 3] = stop.color


def _write_placement(row: np.ndarray, placement: Placement) -> None:
    row["kind"], row["uv_set"], row["rest"] = _KINDS[placement.kind], placement.uv_set, placement.space == "scene"
    turn = turn_matrix(placement.turn_x, placement.turn_y, placement.turn_z).T
    by_uv = placement.kind == "uv"
    sizes = np.array([1.0, placement.ratio, 1.0])
    sizes = sizes / placement.repeats if by_uv else sizes * placement.size
    matrix = turn / sizes[:, None]
    row["matrix"] = np.column_stack([matrix, -matrix @ np.array(placement.offset)]).ravel()
    if by_uv:
        # v runs downwards in glTF, patterns and images upwards.
        row["matrix"] = (matrix @ np.array([[1.0, 0, 0, 0], [0, -1.0, 0, 1.0], [0, 0, 1.0, 0]])).ravel()
        row["matrix"][[3, 7, 11]] -= (matrix @ np.array(placement.offset)).astype(np.float32)
    row["turn"] = turn.ravel()
    row["around"], row["blend"] = max(round(placement.repeats), 1), placement.blend
