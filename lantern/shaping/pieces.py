"""Pieces of meshes: cut apart where nothing connects them, and put together as one.

In: meshes. Out: meshes. Called by `compile.stock` and, to count them, by `engine.cutting`.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from lantern.assets.mesh import Mesh, MeshShapes, carried
from lantern.assets.smoothing import welded

MOST_PIECES = 500
"""That a mesh is cut into; what is smaller than the others stays together as the last."""


def components(mesh: Mesh) -> np.ndarray:
    """(m,) the piece that each triangle belongs to, the largest first; vertices at one place are one."""
    if not mesh.triangles:
        return np.zeros(0, np.int64)
    _, corners = welded(mesh.positions, mesh.indices)
    corners = corners.reshape(-1, 3)
    count = int(corners.max()) + 1
    edges = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]]])
    graph = coo_array((np.ones(len(edges), np.int8), (edges[:, 0], edges[:, 1])), shape=(count, count))
    _, of_vertex = connected_components(graph, directed=False)
    of_triangle = of_vertex[corners[:, 0]]
    found, first, sizes = np.unique(of_triangle, return_index=True, return_counts=True)
    # Of equals the one that the file names first.
    rank = np.empty(of_vertex.max() + 1, np.int64)
    rank[found[np.lexsort((first, -sizes))]] = np.arange(len(found))
    return np.minimum(rank[of_triangle], MOST_PIECES - 1)


def piece_of(mesh: Mesh, chosen: np.ndarray) -> Mesh:
    """The triangles (m,) bool that are chosen of a mesh, with the vertices that they use."""
    used, indices = np.unique(mesh.indices[chosen], return_inverse=True)
    shapes = mesh.shapes and MeshShapes(
        mesh.shapes.times, mesh.shapes.positions[:, used].copy(), mesh.shapes.normals[:, used].copy()
    )
    return Mesh(
        mesh.positions[used],
        indices.reshape(-1, 3).astype(np.uint32),
        mesh.normals[used],
        None if mesh.uvs is None else mesh.uvs[:, used].copy(),
        None if mesh.tangents is None else mesh.tangents[used],
        shapes,
        None if mesh.colors is None else mesh.colors[used],
    )


def joined(meshes: Sequence[tuple[Mesh, np.ndarray]]) -> Mesh:
    """One mesh of several, each brought to its place by a matrix (4, 4); what not all of them have is left out."""
    placed = [carried(replace(mesh, shapes=None), matrix) for mesh, matrix in meshes]
    starts = np.cumsum([0, *(len(mesh.positions) for mesh in placed[:-1])])
    sets = min(0 if mesh.uvs is None else len(mesh.uvs) for mesh in placed)
    tangents = [mesh.tangents for mesh in placed if mesh.tangents is not None]
    colors = [mesh.colors for mesh in placed if mesh.colors is not None]
    uvs = [mesh.uvs[:sets] for mesh in placed if mesh.uvs is not None]
    return Mesh(
        np.concatenate([mesh.positions for mesh in placed]),
        np.concatenate([mesh.indices + np.uint32(start) for mesh, start in zip(placed, starts, strict=True)]),
        np.concatenate([mesh.normals for mesh in placed]),
        np.concatenate(uvs, axis=1) if sets else None,
        np.concatenate(tangents).astype(np.float32) if len(tangents) == len(placed) else None,
        None,
        np.concatenate(colors) if len(colors) == len(placed) else None,
    )
