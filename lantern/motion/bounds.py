"""How large things are at the moment that a document shows: bounds of parts where keys and shapes have put them.

In: meshes, parts, the shutter. Out: boxes. Called by the compiled scene, on import and by the command line.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

import numpy as np

from lantern.motion.poses import mesh_poses, part_poses
from lantern.scene.document import Part, Shutter
from lantern.scene.standing import REST, Standing, stand_of

Bounds = tuple[np.ndarray, np.ndarray]
"""Lowest and highest corner (3,) float64 [m]; ±infinity of nothing."""


class Shapes(Protocol):
    """Where the vertices of a deforming mesh are at some moments."""

    @property
    def times(self) -> Sequence[float]: ...

    @property
    def positions(self) -> np.ndarray: ...


class Points(Protocol):
    """A mesh, as far as its size goes."""

    @property
    def positions(self) -> np.ndarray: ...

    @property
    def shapes(self) -> Shapes | None: ...


def mesh_points(meshes: Sequence[Points], shutter: Shutter) -> list[np.ndarray]:
    """(n, 3) points of each mesh while the shutter is open; those of a deforming one at each step."""
    return [
        mesh.positions
        if mesh.shapes is None
        else mesh_poses(mesh.shapes.times, mesh.shapes.positions, shutter).reshape(-1, 3)
        for mesh in meshes
    ]


def mesh_boxes(meshes: Sequence[Points]) -> list[np.ndarray]:
    """(8, 3) corners of the box around each mesh, whatever shape it takes."""
    return [_corners(mesh.positions if mesh.shapes is None else mesh.shapes.positions) for mesh in meshes]


def _corners(points: np.ndarray) -> np.ndarray:
    points = points.reshape(-1, 3)
    low, high = points.min(0), points.max(0)
    return np.array([(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])


def bounds_of(
    points_of: Sequence[np.ndarray], parts: Iterable[Part], shutter: Shutter, stand: np.ndarray = REST
) -> Bounds:
    """Bounds of some parts in the world while the shutter is open.

    `points_of` has (n, 3) points a mesh, `stand` (4, 4) is how the asset stands.
    """
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for part in parts:
        for pose in part_poses(part, shutter, stand):
            points = points_of[part.mesh] @ pose[:, :3].T + pose[:, 3]
            low, high = np.minimum(low, points.min(0)), np.maximum(high, points.max(0))
    return low, high


class Asset(Standing, Protocol):
    """Meshes and the parts made of them."""

    @property
    def meshes(self) -> Sequence[Points]: ...

    @property
    def parts(self) -> Mapping[str, Part]: ...


def asset_bounds(asset: Asset) -> Bounds:
    """Bounds of all parts of an asset as a new document shows it."""
    return bounds_of(mesh_points(asset.meshes, Shutter()), asset.parts.values(), Shutter(), stand_of(asset))
