"""How images lie by coordinates: placements of inputs, and affine maps as files have them.

In: one. Out: the other. Called by readers and writers of materials. The document's coordinates run upwards from the
lower left, those of glTF and of maps downwards from the upper left.
"""

import numpy as np

from lantern.scene.inputs import Placement
from lantern.scene.texture_use import TextureUse
from lantern.scene.turning import turn_matrix


def placement_by_coordinates(uv_set: int, matrix: np.ndarray) -> Placement:
    """The placement of an affine map (2, 3) from coordinates to repeats, both upwards; a shear is left out."""
    rows, shift = matrix[:, :2], matrix[:, 2]
    sizes = np.maximum(np.linalg.norm(rows, axis=1), 1e-9)
    origin = -np.linalg.lstsq(rows, shift, rcond=None)[0]
    return Placement(
        kind="uv", uv_set=uv_set, repeats=float(sizes[0]), ratio=float(sizes[0] / sizes[1]),
        turn_z=float(np.degrees(np.arctan2(rows[0, 1], rows[0, 0]))), offset=(*origin.tolist(), 0.0),
    )  # fmt: skip


def turned_over(matrix: np.ndarray) -> np.ndarray:
    """(2, 3) of an affine map with coordinates downwards on both sides, of one with both upwards; and back."""
    (a, b, c), (d, e, f) = matrix.tolist()
    return np.array([[a, -b, b + c], [-d, e, 1 - e - f]])


def placement_of(use: TextureUse) -> Placement:
    """The placement of an input that lies as a map does."""
    return placement_by_coordinates(use.uv_set, turned_over(np.array(use.matrix).reshape(2, 3)))


def use_of(texture: int, placement: Placement) -> TextureUse | None:
    """The use of an image that lies as an input does; None where no map lies so."""
    if placement.kind != "uv" or placement.turn_x or placement.turn_y:
        return None
    linear = turn_matrix(0.0, 0.0, placement.turn_z).T[:2, :2] * placement.repeats
    linear[1] /= placement.ratio
    upwards = np.column_stack([linear, -linear @ np.array(placement.offset[:2])])
    return TextureUse(texture=texture, uv_set=placement.uv_set, matrix=tuple(turned_over(upwards).ravel().tolist()))
