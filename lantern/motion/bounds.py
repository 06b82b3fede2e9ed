"""How large things are at the moment that a document shows: bounds of parts where keys and shapes have put them.

In: meshes, parts, the shutter. Out: boxes. Called by the compiled scene, on import and by the command line.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

import numpy as np

from lantern.motion.points import Points
from lantern.motion.poses import mesh_poses, part_poses
from lantern.scene.document import Part, Shutter
from lantern.scene.placing import AT_REST, Places, Standing

Bounds = tuple[np.ndarray, np.ndarray]
"""Lowest and highest corner (3,) float64 [m]; ±infinity of nothing."""


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


_AT_ONCE = 1 << 20
"""Points times poses that are placed at once: 24 MB."""


def bounds_of_poses(points_of: Sequence[np.ndarray], placed: Iterable[tuple[int, np.ndarray]]) -> Bounds:
    """Bounds of meshes in the world: of each its number and poses (k, 3, 4); `points_of` has (n, 3) points a mesh."""
    by_mesh: dict[int, list[np.ndarray]] = {}
    for mesh, poses in placed:
        by_mesh.setdefault(mesh, []).append(poses)
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for mesh, parts in by_mesh.items():
        points, poses = points_of[mesh].astype(np.float64).T, np.concatenate(parts)
        step = max(_AT_ONCE // max(points.shape[1], 1), 1)
        for begin in range(0, len(poses), step):
            some = poses[begin : begin + step]
            world = some[:, :, :3] @ points
            low = np.minimum(low, (world.min(axis=2) + some[:, :, 3]).min(axis=0))
            high = np.maximum(high, (world.max(axis=2) + some[:, :, 3]).max(axis=0))
    return low, high


def joined(first: Bounds, second: Bounds) -> Bounds:
    """The bounds of two."""
    return np.minimum(first[0], second[0]), np.maximum(first[1], second[1])


def bounds_of(
    points_of: Sequence[np.ndarray], parts: Iterable[Part], shutter: Shutter, places: Places = AT_REST
) -> Bounds:
    """Bounds of some parts in the world while the shutter is open; `points_of` has (n, 3) points a mesh."""
    return bounds_of_poses(points_of, ((part.mesh, part_poses(part, shutter, places)) for part in parts))


class Asset(Standing, Protocol):
    """Meshes and the parts made of them."""

    @property
    def meshes(self) -> Sequence[Points]: ...

    @property
    def parts(self) -> Mapping[str, Part]: ...


def asset_bounds(asset: Asset) -> Bounds:
    """Bounds of all parts of an asset as a new document shows it."""
    return bounds_of(mesh_points(asset.meshes, Shutter()), asset.parts.values(), Shutter(), Places(asset))
