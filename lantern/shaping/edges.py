"""The sharp edges of a mesh, and which of them are near a place: what rounded edges are shaded by.

In: a mesh, and how far from an edge a place may lie. Out: `EdgeGrid`, arrays for the kernel `rays.rounding`. Called by
`compile.edge_rows`.
"""

from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh, unit_normals
from lantern.assets.smoothing import welded

SHARP_DEGREES = 15.0
"""Normals on the two sides of an edge that differ by less are the facets of something round."""
_LEAST_AREA = 1e-6
"""Of a triangle, of the square over its edge."""
MOST_STEPS = 400_000
"""Places along all edges together whose cells list them, or about; larger cells hold more edges each."""
FEW_EDGES = 20_000
"""That are left after thinning, if a coarser one need not be tried."""
_APART = (0.1, 0.17, 0.28)
_ODD = np.random.default_rng(1).integers(-(2**62), 2**62, 8) | 1
MOST_EDGES = 150_000
"""Of a grid."""
AROUND = np.stack(np.meshgrid(*[(-1, 0, 1)] * 3, indexing="ij"), -1).reshape(-1, 3)


@dataclass(frozen=True, eq=False)
class EdgeGrid:
    """Edges in the space of their mesh, and a grid of cells that lists those near each cell."""

    edges: np.ndarray  # (n, 19) float32: two ends; unit normals there of one side; of the other; 1 outwards, -1 inwards
    cells: np.ndarray  # (k,) int64 rising numbers of the cells that have edges
    starts: np.ndarray  # (k + 1,) int32 where the edges of each begin in `listed`
    listed: np.ndarray  # int32 numbers of edges
    origin: np.ndarray  # (3,) lowest corner of the grid
    side: float  # of a cell
    counts: np.ndarray  # (3,) int cells along each axis


@dataclass(frozen=True, eq=False)
class MeshEdges:
    """Every edge of a mesh that two triangles share and that turns."""

    rows: np.ndarray  # (n, 19) float32, as `EdgeGrid.edges`
    sharp: np.ndarray  # (n,) bool, whether the normals part there
    turns: np.ndarray  # (n,) float32 curvature across it, 1 / unit of the mesh

    def chosen(self, bend: float = np.inf) -> np.ndarray:
        """Rows of the sharp ones; with a radius `bend`, in units of the mesh, also of those that turn more tightly.

        Those are the lines of a fillet, whose normals are smooth.
        """
        return self.rows[self.sharp | (self.turns * bend > 1.0) if np.isfinite(bend) else self.sharp]


def mesh_edges(mesh: Mesh) -> MeshEdges:
    """The edges of a mesh: seconds for a million triangles, once."""
    points, triangles = welded(mesh.positions, mesh.indices)
    ends = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2).reshape(-1, 2).astype(np.int64)
    vertices = np.stack([mesh.indices, np.roll(mesh.indices, -1, axis=1)], axis=2).reshape(-1, 2)
    turned = ends[:, 0] > ends[:, 1]
    ends[turned], vertices[turned] = ends[turned][:, ::-1], vertices[turned][:, ::-1]
    names = ends[:, 0] * len(points) + ends[:, 1]
    order = np.argsort(names, kind="stable")
    _, first, count = np.unique(names[order], return_index=True, return_counts=True)
    pairs = first[(count == 2) & (ends[order[first], 0] != ends[order[first], 1])]
    a, b = order[pairs], order[pairs + 1]
    sides = [unit_normals(mesh.normals[vertices[side]].reshape(-1, 3)).reshape(-1, 2, 3) for side in (a, b)]
    middles = [side.sum(axis=1) for side in sides]
    lengths = np.maximum(np.prod([np.linalg.norm(middle, axis=1) for middle in middles], axis=0), 1e-30)
    sharp = np.einsum("ei,ei->e", *middles) / lengths < np.cos(np.radians(SHARP_DEGREES))
    places = points[ends[a]].astype(np.float64)
    along = places[:, 1] - places[:, 0]
    faces = [_face_normals(mesh, side // 3) for side in (a, b)]
    turns = _turns(faces, along)
    # From an edge that sticks out both triangles fall off, against the normals there.
    falls = [_away(mesh, side, places[:, 0], along) for side in (a, b)]
    outwards = np.einsum("ei,ei->e", middles[0] + middles[1], falls[0] + falls[1]) < 0
    # A triangle without area has no side to lean to.
    areas = [np.linalg.norm(face, axis=1) for face in faces]
    there = np.minimum(*areas) > _LEAST_AREA * np.einsum("ei,ei->e", along, along)
    there &= sharp | (turns > 0)
    rows = np.concatenate([places, *sides], axis=1).reshape(-1, 18)[there]
    rows = np.column_stack([rows, np.where(outwards, 1.0, -1.0)[there]]).astype(np.float32)
    return MeshEdges(rows, sharp[there], turns[there].astype(np.float32))


def thinned(edges: np.ndarray, reach: float) -> np.ndarray:
    """Of (n, 19) edges that run side by side, one: enough to say how far the nearest within `reach` is.

    The lines of a fillet are many, and so are the pieces of a fine rim. Side by side is within a tenth of the reach, or
    more of it where there are very many.
    """
    for share in _APART:
        edges = _thinned(edges, share * reach)
        if len(edges) <= FEW_EDGES:
            break
    return edges


def _thinned(edges: np.ndarray, apart: float) -> np.ndarray:
    begin, end = edges[:, :3].astype(np.float64), edges[:, 3:6].astype(np.float64)
    along = end - begin
    along *= np.where(along[:, :1] + 1e-3 * along[:, 1:2] + 1e-6 * along[:, 2:3] < 0, -1.0, 1.0)
    lengths = np.linalg.norm(along, axis=1, keepdims=True)
    towards = np.where(lengths > apart, along / np.maximum(lengths, 1e-300), 0.0)
    marks = np.concatenate([(begin + end) / 2 / apart, lengths / apart, 4 * towards, edges[:, 18:]], axis=1)
    # A number for each row of them, that others have by a chance of 2^-64: sorting rows takes many times as long.
    numbers = np.rint(marks).astype(np.int64) @ _ODD
    _, kept = np.unique(numbers, return_index=True)
    return edges[np.sort(kept)]


def _face_normals(mesh: Mesh, triangles: np.ndarray) -> np.ndarray:
    """(n, 3) normals of triangles, twice as long as they are large."""
    corners = mesh.positions[mesh.indices[triangles]].astype(np.float64)
    normals: np.ndarray = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return normals


def _away(mesh: Mesh, sides: np.ndarray, begin: np.ndarray, along: np.ndarray) -> np.ndarray:
    """(n, 3) unit ways from edges, along their triangles; `sides` are numbers of triangles' sides."""
    across = mesh.positions[mesh.indices[sides // 3, (sides + 2) % 3]] - begin
    squares = np.maximum(np.einsum("ei,ei->e", along, along), 1e-300)
    across = across - along * (np.einsum("ei,ei->e", across, along) / squares)[:, None]
    return across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)


def _turns(faces: list[np.ndarray], along: np.ndarray) -> np.ndarray:
    """(n,) curvature across edges: the angle between their triangles over the mean of how far those reach from it."""
    areas = [np.linalg.norm(face, axis=1) for face in faces]
    cosine = np.einsum("ei,ei->e", *faces) / np.maximum(areas[0] * areas[1], 1e-300)
    reach = (areas[0] + areas[1]) / 2 / np.maximum(np.linalg.norm(along, axis=1), 1e-300)
    return np.arccos(np.clip(cosine, -1.0, 1.0)) / np.maximum(reach, 1e-300)


def bends(mesh: Mesh) -> np.ndarray:
    """(n,) float32 mean curvature at each vertex, 1 / unit of the mesh, positive where it bulges.

    Of each edge, the curvature of the circle through its ends with their normals (Taubin, "Estimating the Tensor of
    Curvature", ICCV 1995, section 4); at a vertex, the mean of its edges by their lengths.
    """
    ends = np.stack([mesh.indices, np.roll(mesh.indices, -1, axis=1)], axis=2).reshape(-1, 2)
    along = np.diff(mesh.positions[ends], axis=1)[:, 0].astype(np.float64)
    turn = np.diff(mesh.normals[ends], axis=1)[:, 0].astype(np.float64)
    lengths = np.linalg.norm(along, axis=1)
    # Each edge counts by its length: curvature times length is the turn along it.
    turned = np.divide(np.einsum("ei,ei->e", along, turn), lengths, out=np.zeros_like(lengths), where=lengths > 0)
    count = len(mesh.positions)
    sums = sum(np.bincount(ends[:, side], turned, count) for side in (0, 1))
    weights = sum(np.bincount(ends[:, side], lengths, count) for side in (0, 1))
    return np.divide(sums, weights, out=np.zeros(count), where=weights > 0).astype(np.float32)


def edge_grid(edges: np.ndarray, reach: float) -> EdgeGrid | None:
    """The grid in which the edges, of (n, 19), within `reach` > 0 of a place are found; None of none or too many."""
    if not 0 < len(edges) <= MOST_EDGES:
        return None
    ends = edges[:, :6].astype(np.float64).reshape(-1, 2, 3)
    along = ends[:, 1] - ends[:, 0]
    lengths = np.linalg.norm(along, axis=1)
    side = max(1.25 * reach, float(lengths.sum()) / (MOST_STEPS - len(edges)))
    low, high = ends.min(axis=(0, 1)) - 2 * side, ends.max(axis=(0, 1)) + 2 * side
    counts = np.ceil((high - low) / side).astype(np.int64)
    # Places on each edge a cell apart: what is within reach of the edge is less than a cell's side away from one of
    # them, √(0.8² + 0.5²) < 1, and so in the 27 cells around it.
    steps = np.ceil(lengths / side).astype(np.int64) + 1
    owner = np.repeat(np.arange(len(edges)), steps)
    number = np.arange(len(owner)) - np.repeat(np.cumsum(steps) - steps, steps)
    share = number / np.maximum(steps[owner] - 1, 1)
    place = np.floor((ends[owner, 0] + along[owner] * share[:, None] - low) / side).astype(np.int64)
    near = (place[:, None] + AROUND).reshape(-1, 3)
    cell = (near[:, 2] * counts[1] + near[:, 1]) * counts[0] + near[:, 0]
    # As one number each: sorting rows would take many times as long.
    cells, numbers = np.unique(cell, return_inverse=True)
    marks = np.unique(numbers.ravel() * len(edges) + np.repeat(owner, len(AROUND)))
    places, listed = np.divmod(marks, len(edges))
    begins = np.flatnonzero(np.diff(places, prepend=-1))
    return EdgeGrid(
        edges.astype(np.float32),
        cells,
        np.append(begins, len(marks)).astype(np.int32),
        listed.astype(np.int32),
        low.astype(np.float32),
        side,
        counts,
    )
