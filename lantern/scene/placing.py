"""Where a part stands: as its file says, in the asset's unit and upright, then moved, turned and sized by hand, then so
again with each group that it belongs to.

In: the asset and the groups of a document, a part. Out: matrices, and fields that say one. Called by `motion.poses` and
`arranging`.
"""

import functools
from collections.abc import Mapping, Sequence
from typing import Any, Protocol

import numpy as np

from lantern.scene.document import Part, Scene
from lantern.scene.fields import FAR
from lantern.scene.placed import PartGroup, Placed
from lantern.scene.turning import UPRIGHT, Axis, mirror_matrix, turn_matrix, turns_of

LEAST_SIZE, MOST_SIZE = 0.001, 1000.0
"""Of something that is placed, as its field allows it."""


REST = np.eye(4)
"""Of an asset that stands as its file says."""


class Standing(Protocol):
    """An asset, as far as its unit and its upright axis go."""

    @property
    def scale(self) -> float: ...

    @property
    def up(self) -> Axis: ...


def stand_of(asset: Standing | None) -> np.ndarray:
    """(4, 4) from the space of an asset's file to the scene."""
    if asset is None:
        return REST
    matrix = np.eye(4)
    matrix[:3, :3] = np.array(UPRIGHT[asset.up], np.float64) * asset.scale
    return matrix


def affine(rows: Sequence[float]) -> np.ndarray:
    """(4, 4) of the twelve numbers by which a document says a matrix."""
    return np.vstack([np.array(rows, np.float64).reshape(3, 4), [0.0, 0.0, 0.0, 1.0]])


def is_placed(one: Placed) -> bool:
    """Whether something was moved, turned or sized by hand."""
    turned = one.turn_x or one.turn_y or one.turn_z
    return bool(any(one.offset) or turned or one.size != 1 or one.mirror != "none")


def stands(part: Part) -> tuple[object, ...]:
    """Everything of a part on which it depends where it stands."""
    placed = (part.offset, part.turn_x, part.turn_y, part.turn_z, part.size, part.mirror, part.pivot, part.group)
    return part.matrix, part.keys, part.form is None, *placed


def placement_of(one: Placed) -> np.ndarray:
    """(4, 4) that moves, turns and sizes something within what it belongs to."""
    if not is_placed(one):
        return REST
    matrix = np.eye(4)
    matrix[:3, :3] = turn_matrix(one.turn_x, one.turn_y, one.turn_z) @ mirror_matrix(one.mirror) * one.size
    pivot = np.array(one.pivot)
    matrix[:3, 3] = pivot + np.array(one.offset) - matrix[:3, :3] @ pivot
    return matrix


def placed_as(one: Placed, matrix: np.ndarray) -> dict[str, Any]:
    """Fields by which something has another placement (4, 4), of turns, one size for all ways and mirrors."""
    linear = matrix[:3, :3]
    determinant = float(np.linalg.det(linear))
    size = min(max(abs(determinant) ** (1 / 3), LEAST_SIZE), MOST_SIZE)
    is_mirrored = determinant < 0
    axis = "none" if not is_mirrored else one.mirror if one.mirror != "none" else "x"
    turns = turns_of(linear @ mirror_matrix(axis) / size)
    pivot = np.array(one.pivot)
    offset = matrix[:3, 3] - pivot + linear @ pivot
    fields: dict[str, Any] = {"offset": tuple(rounded(v) for v in offset), "size": rounded(size), "mirror": axis}
    return fields | {f"turn_{a}": rounded(round(t, 6)) for a, t in zip("xyz", turns, strict=True)}


def into_space(one: Placed, was: np.ndarray, now: np.ndarray) -> dict[str, Any]:
    """Fields by which something stays where it is when the space (4, 4) that it is placed in becomes another."""
    if np.array_equal(was, now):
        return {}
    return placed_as(one, np.linalg.inv(now) @ was @ placement_of(one))


def rounded(value: float) -> float:
    """A coordinate of a document: nine digits, within reach."""
    return float(f"{max(min(float(value), FAR), -FAR):.9g}")


class Places:
    """Where the parts of a document stand."""

    def __init__(self, asset: Standing | None = None, groups: Mapping[str, PartGroup] | None = None) -> None:
        self._stand, self._groups = stand_of(asset), groups or {}
        self._known: dict[str | None, np.ndarray] = {None: REST}

    @classmethod
    def of(cls, scene: Scene) -> "Places":
        """Those of a document."""
        return cls(scene.asset, scene.part_groups)

    def group(self, key: str | None) -> np.ndarray:
        """(4, 4) from the space of a group to the scene; that of a group which is not there is the scene's own."""
        if key is not None and key not in self._known:
            group = self._groups.get(key)
            own = REST if group is None else placement_of(group)
            above = REST if group is None else self.group(group.group)
            self._known[key] = own if above is REST else above @ own
        return self._known[key]

    def unit(self, part: Part) -> float:
        """Metres of a unit of a part's own space as its file says, whatever it is sized by hand."""
        stand = self._stand if part.form is None else REST
        linear = stand[:3, :3] @ affine(part.keys[0].matrix if part.keys else part.matrix)[:3, :3]
        return abs(float(np.linalg.det(linear))) ** (1 / 3)

    def over(self, part: Part) -> np.ndarray:
        """(4, 4) that is laid over the matrices of a part; REST itself where they stay as they are."""
        matrices = self.group(part.group), placement_of(part), self._stand if part.form is None else REST
        moved = [matrix for matrix in matrices if matrix is not REST]
        return functools.reduce(np.matmul, moved) if moved else REST


AT_REST = Places()
"""Of parts in no group, of an asset that stands as its file says."""
