"""Decals as they lie on a part: their frames in its own space, the material that each is like.

In: a decal, where the part that carries it stands and where another does. Out: `PlacedDecal`s. Called by `compiled`.
"""

from dataclasses import dataclass

import numpy as np

from lantern.compile.operations import Frame
from lantern.compile.pictures import Pictures
from lantern.scene.decals import Decal
from lantern.scene.document import Material

_SAME_WAY = 0.98
"""Cosine beyond which two directions are taken to be the same."""


@dataclass(frozen=True, eq=False)
class PlacedDecal:
    """A decal, the number of its image, its frame on a part."""

    decal: Decal
    image: int
    frame: Frame


def finish_of(decal: Decal) -> Material:
    """The material that a decal is like, but for its picture."""
    return Material(
        name=decal.name,
        base_color=decal.color,
        base_metalness=decal.metalness,
        specular_roughness=decal.roughness,
        coat_weight=decal.coat,
    )


def placed(decal: Decal, pictures: Pictures, carrier: np.ndarray, unit: float, pose: np.ndarray) -> PlacedDecal | None:
    """A decal on a part that stands by `pose` (3, 4), carried by one that stands by `carrier`.

    A unit of the latter's space is `unit` m as its file says: a decal grows with a part that is sized by hand. None
    where its image cannot be had, or one of the two has no size.
    """
    image = pictures.of_content(decal.content)
    if image is None:
        return None
    units = [unit, unit_of(pose)]
    if min(*units, unit_of(carrier)) < 1e-12:
        return None
    height, width = pictures.texels(image).shape[:2]
    is_mirrored = bool(np.linalg.det(carrier[:, :3]) < 0)
    across = _across(carrier, pose, units)
    return PlacedDecal(decal, image, _frame(decal, height / width * decal.stretch, across, is_mirrored=is_mirrored))


def unit_of(pose: np.ndarray) -> float:
    """Metres of a unit of a mesh that stands by a pose."""
    return abs(float(np.linalg.det(pose[:, :3]))) ** (1 / 3)


def _across(carrier: np.ndarray, pose: np.ndarray, units: list[float]) -> np.ndarray:
    """(3, 4) from a part's own space, in metres, to that of the part that carries a decal."""
    inverse = np.linalg.inv(carrier[:, :3]) * units[0]
    linear = inverse @ pose[:, :3] / units[1]
    return np.column_stack([linear, inverse @ (pose[:, 3] - carrier[:, 3])])


def _frame(decal: Decal, tall: float, across: np.ndarray, *, is_mirrored: bool) -> Frame:
    z = _unit(np.array(decal.facing, float), np.array([0.0, 0.0, 1.0]))
    up = _unit(np.array(decal.upright, float), np.array([0.0, 1.0, 0.0]))
    if abs(float(up @ z)) > _SAME_WAY:
        up = min(np.array([0.0, 0.0, -1.0]), np.array([1.0, 0.0, 0.0]), key=lambda axis: abs(float(axis @ z)))
    x = np.cross(up, z)
    x /= np.linalg.norm(x)
    y = np.cross(z, x)
    if is_mirrored:
        x = -x  # it is read in the scene, not in the space of its part
    c, s = np.cos(np.radians(decal.turn)), np.sin(np.radians(decal.turn))
    axes = np.stack([c * x + s * y, c * y - s * x, z])
    linear = axes @ across[:, :3]
    offset = axes @ (across[:, 3] - np.array(decal.middle))
    matrix = np.column_stack([linear, offset]) / decal.width
    turn = linear / np.maximum(np.linalg.norm(linear, axis=1, keepdims=True), 1e-12)
    return Frame(matrix, turn, tall, decal.wraps)


def _unit(direction: np.ndarray, otherwise: np.ndarray) -> np.ndarray:
    length = float(np.linalg.norm(direction))
    return direction / length if length > 1e-9 else otherwise
