"""A fine surface whose vertices can still be moved: its faces, and which of their corners share a vertex of a mesh.

In: a net, its points, what varies by corner. Out: a `Surface`, and of it meshes, quickly, for other points. Called by
`subdividing` and `displacing`.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from lantern.assets.cage import Channel
from lantern.assets.mesh import Mesh
from lantern.kernel.normals import group_normals
from lantern.shaping.nets import Net


@dataclass(frozen=True, eq=False)
class Surface:
    """Triangles over points, with vertices that are told apart by their texture coordinates and by sharp edges."""

    points: np.ndarray  # (p, 3) float64
    triangles: np.ndarray  # (m, 3) int64 vertices
    point: np.ndarray  # (n,) int64 of each vertex
    group: np.ndarray  # (n,) int64: vertices of one group share a normal
    uvs: np.ndarray | None  # (sets, n, 2) float32
    colors: np.ndarray | None  # (n, 4) float32

    @cached_property
    def _corners(self) -> tuple[np.ndarray, np.ndarray, int]:
        """Points and groups of the corners of triangles, and how many groups there are."""
        return self.point[self.triangles], self.group[self.triangles], int(self.group.max(initial=-1)) + 1

    def normals(self, points: np.ndarray) -> np.ndarray:
        """(groups, 3) unit normals over points (p, 3), in float64 as these are: it runs once a mesh, not once a ray."""
        return group_normals(points, *self._corners)

    @cached_property
    def own_normals(self) -> np.ndarray:
        """(groups, 3) over its own points."""
        return self.normals(self.points)

    def mesh(self, points: np.ndarray | None = None) -> Mesh:
        """The mesh over other points (p, 3), or over its own."""
        normals = self.own_normals if points is None else self.normals(points)
        points = self.points if points is None else points
        return Mesh(
            np.ascontiguousarray(points[self.point], np.float32),
            self.triangles.astype(np.uint32),
            np.ascontiguousarray(normals[self.group], np.float32),
            self.uvs,
            None,
            colors=self.colors,
        )


def surface_of(net: Net, points: np.ndarray, uvs: list[Channel], colors: Channel | None) -> Surface:
    """The surface of a net whose faces all have three corners, or four."""
    group = _dense(_groups(net))
    vertex = group
    for channel in (*uvs, *([colors] if colors else [])):
        vertex = _together(vertex, channel.indices)
    first = np.empty(int(vertex.max()) + 1, np.int64)
    first[vertex[::-1]] = np.arange(len(vertex))[::-1]
    faces = vertex.reshape(net.faces, -1)
    split = [[0, 1, 2]] if faces.shape[1] == 3 else [[0, 1, 2], [0, 2, 3]]
    return Surface(
        points,
        faces[:, split].reshape(-1, 3),
        net.corners[first],
        group[first],
        np.stack([c.values[c.indices[first]] for c in uvs]).astype(np.float32) if uvs else None,
        np.clip(colors.values[colors.indices[first]], 0, None).astype(np.float32) if colors else None,
    )


def _dense(numbers: np.ndarray) -> np.ndarray:
    """The same numbers without gaps, in their order."""
    used = np.zeros(int(numbers.max()) + 1, bool)
    used[numbers] = True
    return (np.cumsum(used) - 1)[numbers]


def _together(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """(c,) numbers without gaps that are equal where both are; unlike `corners.together` it trusts that those that come
    in have hardly any, which saves a sort."""
    return np.unique(one * (np.int64(other.max()) + 1) + other, return_inverse=True)[1]


def _groups(net: Net) -> np.ndarray:
    """(c,) number of the normal that each corner has: one a vertex, but on either side of sharp edges another."""
    hard = np.isinf(net.edge_sharp) & (net.around_edge > 1)
    if not hard.any():
        return net.corners
    order = np.argsort(net.edge, kind="stable")
    begins = np.cumsum(net.around_edge) - net.around_edge
    soft = np.flatnonzero(~hard & (net.around_edge == 2))
    a, b = order[begins[soft]], order[begins[soft] + 1]
    after_a, after_b = net.following[a], net.following[b]
    turned = net.corners[a] == net.corners[b]  # faces that run the same way along their edge
    ends = np.concatenate([a, after_a])
    others = np.concatenate([np.where(turned, b, after_b), np.where(turned, after_b, b)])
    count = len(net.corners)
    graph = coo_array((np.ones(len(ends), bool), (ends, others)), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1], np.int64)
