"""The programs of materials as rows of operations, placements and ramps.

In: operations of a material by stage, and the material that they belong to. Out: rows of `OPERATION`, `PLACEMENT` and
`RAMP`, and what a POINT must hold for them. Called by `material_rows`. Each material with operations has a span of
rows, so that an edit rewrites that span alone.
"""

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from lantern.compile.operations import STAGES, Frame, Laid, Operation, Stages
from lantern.compile.pictures import Pictures
from lantern.kernel.memory import Table
from lantern.pattern.program import CODES
from lantern.pattern.tables import (
    BY_BOX,
    BY_CYLINDER,
    BY_PLANE,
    BY_SPHERE,
    BY_UV,
    BY_WRAP,
    LINEAR_RAMP,
    OPERATION,
    PLACEMENT,
    RAMP,
    SMOOTH_RAMP,
    STEPS,
)
from lantern.scene import sources
from lantern.scene.document import Material
from lantern.scene.inputs import PARAMETERS, MaterialInput, Placement, Ramp
from lantern.scene.layers import Layer
from lantern.scene.texture_use import TextureUse
from lantern.scene.turning import turn_matrix

_KINDS = {"uv": BY_UV, "box": BY_BOX, "plane": BY_PLANE, "cylinder": BY_CYLINDER, "sphere": BY_SPHERE}
_BLENDS = {"linear": LINEAR_RAMP, "smooth": SMOOTH_RAMP, "steps": STEPS}
_STEPS_A_REPEAT = 256.0
"""Of the places whose heights are compared: as fine as the finest scratch. Of an image they are texels."""
_STEPS_A_BORDER = 64.0
"""The same, of the width of worn edges."""
_LOOKING_UP = [CODES.index("image"), CODES.index("lit_ball")]
_PLAIN = [f.name for f in fields(Operation) if f.name not in ("ramp", "placement", "numbers", "needs")]


@dataclass(frozen=True)
class Needs:
    """Bits of what a POINT must hold: for everything, for the opacity, for the light of the operations themselves."""

    everything: int = 0
    opacity: int = 0
    emission: int = 0


class InputRows:
    """Spans of rows of the materials that have operations."""

    def __init__(self, pictures: Pictures) -> None:
        self._pictures = pictures
        self._spans: dict[int, tuple[int, int]] = {}
        self._end = 0
        self.operations, self.placements, self.ramps = OPERATION.zeros(0), PLACEMENT.zeros(0), RAMP.zeros(0)

    def write(self, number: int, row: np.ndarray, stages: Stages) -> Needs:
        """Write the operations of material `number`, whose row is told where they stand."""
        count = sum(len(operations) for operations in stages.values())
        at = self._span(number, count) if count else 0
        needs = dict.fromkeys(STAGES, 0)
        for stage in STAGES:
            row[f"{stage}_first"], row[f"{stage}_count"] = at, len(stages[stage])
            for operation in stages[stage]:
                self._write(at, operation)
                needs[stage] |= operation.needs
                at += 1
        everything = needs["surface"] | needs["opacity"] | needs["emission"] | needs["bump"]
        return Needs(everything, needs["opacity"], needs["emission"])

    def write_step(self, row: np.ndarray, material: Material, laid: Sequence[Laid]) -> None:
        """Tell a row how far apart places lie whose heights give the slope, where it has any."""
        bump = material.inputs.get("bump")
        step, of_set = (np.inf, -1) if bump is None else self.bump_step(bump)
        steps = [step for one in laid if one.has_height for step in one.steps]
        if bump is None or (of_set < 0 and steps):
            step = min([step, *steps], default=np.inf)
        row["bump_step"], row["bump_set"] = (step if np.isfinite(step) else 1e-4), of_set

    def bump_step(self, one: MaterialInput) -> tuple[float, int]:
        """In metres, -1; or in coordinates, and of which set."""
        image = one.source.texture if isinstance(one.source, sources.ImageSource) else None
        if isinstance(one.source, sources.FileSource):
            image = self._pictures.of_source(one.source)
        repeats = 1.0 / (_STEPS_A_REPEAT if image is None else max(self._pictures.texels(image).shape[:2]))
        if isinstance(one.source, sources.WornSource):
            return one.source.width / _STEPS_A_BORDER, -1
        if one.source.kind in sources.PLACED and one.placement.kind == "uv":
            return repeats / one.placement.repeats, one.placement.uv_set
        return repeats * one.placement.size, -1

    @property
    def images(self) -> set[int]:
        """Numbers of the images that operations look up."""
        looks_up = np.isin(self.operations["code"], _LOOKING_UP)
        return set(self.operations["image"][looks_up].tolist())

    def _span(self, number: int, count: int) -> int:
        """Where the rows of a material begin; one that has outgrown its span gets another, at the end."""
        begin, room = self._spans.get(number, (0, 0))
        if count > room:
            begin, room = self._end, max(count, len(PARAMETERS))
            self._spans[number] = begin, room
            self._end += room
            self.operations = _grown(self.operations, OPERATION, self._end)
            self.placements = _grown(self.placements, PLACEMENT, self._end)
            self.ramps = _grown(self.ramps, RAMP, self._end)
        return begin

    def _write(self, at: int, operation: Operation) -> None:
        row = self.operations[at]
        for name in _PLAIN:
            row[name] = getattr(operation, name)
        row["numbers"] = 0.0
        row["numbers"][: len(operation.numbers)] = operation.numbers
        row["ramp"] = -1 if operation.ramp is None else at
        if operation.ramp is not None:
            _write_ramp(self.ramps[at], operation.ramp)
        row["placement"] = at
        if isinstance(operation.placement, TextureUse):
            _write_use(self.placements[at], operation.placement)
        elif isinstance(operation.placement, Frame):
            _write_frame(self.placements[at], operation.placement)
        elif operation.placement is not None:
            _write_placement(self.placements[at], operation.placement)


def borders(layer: Layer) -> tuple[float, ...]:
    """Steps [m] that the border of a layer asks for."""
    found = [each.source for each in layer.inputs()]
    return tuple(source.width / _STEPS_A_BORDER for source in found if isinstance(source, sources.WornSource))


def _grown(rows: np.ndarray, table: Table, wanted: int) -> np.ndarray:
    if wanted <= len(rows):
        return rows
    larger = table.zeros(max(2 * len(rows), wanted))
    larger[: len(rows)] = rows
    return larger


def _write_ramp(row: np.ndarray, ramp: Ramp) -> None:
    row["count"], row["blend"] = len(ramp.stops), _BLENDS[ramp.blend]
    for number, stop in enumerate(ramp.stops):
        row["at"][number] = stop.at
        row["color"][3 * number : 3 * number + 3] = stop.color


def _write_use(row: np.ndarray, use: TextureUse) -> None:
    """An image of fixed meaning, whose map from coordinates is its own; patterns run upwards, images downwards."""
    a, b, c, d, e, f = use.matrix
    row["kind"], row["uv_set"], row["rest"] = BY_UV, use.uv_set, 0
    row["matrix"] = (a, b, 0, c, -d, -e, 0, 1 - f, 0, 0, 1, 0)


def _write_frame(row: np.ndarray, frame: Frame) -> None:
    """A decal's frame; without bending it is a plane, whose corner is at the origin of its image."""
    row["kind"], row["uv_set"], row["rest"] = BY_WRAP if frame.wraps else BY_PLANE, 0, 0
    matrix = frame.matrix.copy()
    if not frame.wraps:
        matrix[1] /= frame.tall
        matrix[:2, 3] += 0.5
    row["matrix"], row["turn"], row["around"] = matrix.ravel(), frame.turn.ravel(), 1.0 / frame.tall


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
