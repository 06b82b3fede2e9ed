"""Surfaces laid out flat, and which place of a surface lies under each texel of such a layout.

In: a mesh. Out: the same mesh with coordinates of its own for every place; triangles and barycentrics by texel. Called
by what bakes images. A layout that the mesh has already, without overlaps, is kept.
"""

from dataclasses import dataclass, replace

import numpy as np
import xatlas

from lantern.assets.mesh import Mesh
from lantern.kernel.texels import fill_texels

MOST_UNWRAPPED = 200_000
"""Triangles of a mesh that is laid out: beyond, it takes minutes."""
_GAP = 4
"""Texels between two islands, so that what is between texels is not of the neighbour."""
_PROBED = 512
"""Texels along a side of what shows whether a layout overlaps itself."""
_MOST_WITHOUT = 0.001
"""Share of the triangles that may have no room in a layout that is kept."""
_MOST_TWICE = 0.01
"""Share of the texels of a layout that may be met twice: along edges they are."""


@dataclass(frozen=True, eq=False)
class Texels:
    """Which place of a mesh lies under each texel."""

    triangle: np.ndarray  # (h, w) int32, -1 where nothing lies
    u: np.ndarray  # (h, w) float32 barycentrics
    v: np.ndarray
    covered: int  # texels, each counted as often as it is met


def unwrapped(mesh: Mesh, size: int) -> Mesh:
    """A mesh whose first set of coordinates gives each place of its surface texels of its own, of a square of `size`.

    Its triangles stay in their order. Raises ValueError for one of too many triangles.
    """
    if mesh.uvs is not None and len(mesh.uvs) and _lies_apart(mesh):
        return replace(mesh, uvs=mesh.uvs[:1], cage=None)
    if mesh.triangles > MOST_UNWRAPPED:
        raise ValueError(f"it has {mesh.triangles:,} triangles, of which at most {MOST_UNWRAPPED:,} are laid out flat")
    middle = mesh.positions.mean(axis=0)
    reach = max(float(np.abs(mesh.positions - middle).max()), 1e-30)
    atlas, packing = xatlas.Atlas(), xatlas.PackOptions()
    atlas.add_mesh((mesh.positions - middle) / reach, mesh.indices, mesh.normals)
    packing.resolution, packing.padding = size, _GAP
    atlas.generate(xatlas.ChartOptions(), packing)
    vertices, indices, uvs = atlas[0]
    # What is packed is seldom square: its own scale would stretch texels.
    uvs = uvs * (np.array([atlas.width, atlas.height]) / max(atlas.width, atlas.height)).astype(np.float32)
    tangents = None if mesh.tangents is None else mesh.tangents[vertices]
    colors = None if mesh.colors is None else mesh.colors[vertices]
    return Mesh(
        mesh.positions[vertices], indices.astype(np.uint32), mesh.normals[vertices], uvs[None], tangents, colors=colors
    )


def texels_of(uvs: np.ndarray, indices: np.ndarray, size: int) -> Texels:
    """Of coordinates (n, 2) in [0, 1] and triangles (m, 3), on a square of `size` texels, its first row at v = 0."""
    triangle = np.full((size, size), -1, np.int32)
    u, v = np.zeros((size, size), np.float32), np.zeros((size, size), np.float32)
    covered = fill_texels(uvs.astype(np.float64) * size, indices.astype(np.int64), triangle, u, v)
    return Texels(triangle, u, v, int(covered))


def _lies_apart(mesh: Mesh) -> bool:
    """Whether the first layout of a mesh is within the square, and nothing of it lies over anything else."""
    assert mesh.uvs is not None
    uvs = mesh.uvs[0]
    if not np.isfinite(uvs).all() or uvs.min() < 0 or uvs.max() > 1:
        return False
    # What has no room has no texels.
    flat, areas = _areas(uvs, mesh.indices), _areas(mesh.positions, mesh.indices)
    if ((flat <= 0) & (areas > 1e-6 * areas.max(initial=0.0))).mean() > _MOST_WITHOUT:
        return False
    found = texels_of(uvs, mesh.indices, _PROBED)
    single = int((found.triangle >= 0).sum())
    return single > 0 and found.covered - single <= _MOST_TWICE * single


def _areas(points: np.ndarray, indices: np.ndarray) -> np.ndarray:
    """(m,) twice the areas of triangles in two or three dimensions."""
    corners = points[indices].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.abs(across) if across.ndim == 1 else np.linalg.norm(across, axis=1)
