"""Faces over shared vertices, their edges, and one step of subdivision of whatever the vertices carry.

In: corners of faces, sharpness of edges. Out: finer nets, blended values. Called by `subdividing`.

Edmund Catmull & James Clark, "Recursively generated B-spline surfaces on arbitrary topological meshes", CAD 10(6),
1978. Charles Loop, "Smooth Subdivision Surfaces Based on Triangles", University of Utah, 1987. Creases: Tony DeRose,
Michael Kass & Tien Truong, "Subdivision Surfaces in Character Animation", SIGGRAPH 1998, appendix A, and Hugues Hoppe
et al., "Piecewise Smooth Surface Reconstruction", SIGGRAPH 1994. Limits: Mark Halstead, Michael Kass & Tony DeRose,
"Efficient, Fair Interpolation using Catmull-Clark Surfaces", SIGGRAPH 1993, section 3; Hoppe et al., section 3.2.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np


def gathered(index: np.ndarray, values: np.ndarray, size: int) -> np.ndarray:
    """(size, width) sums of the (n, width) values with each index."""
    return np.stack([np.bincount(index, values[:, i], size) for i in range(values.shape[1])], axis=1)


@dataclass(frozen=True, eq=False)
class Net:
    """Faces over `size` vertices. `sharp` is of the edge from each corner to the following one of its face."""

    corners: np.ndarray  # (c,) int64 vertex
    face: np.ndarray  # (c,) int64 number of its face, rising
    following: np.ndarray  # (c,) int64 number of the next corner round the face
    size: int
    sharp: np.ndarray  # (c,) float64, infinity for always
    hard: np.ndarray  # (size,) bool: vertices that stay where they are
    known_edges: tuple[np.ndarray, np.ndarray] | None = None  # (ends, edge), where they are known: sorting is slow

    @cached_property
    def preceding(self) -> np.ndarray:
        """(c,) the corner before each."""
        found = np.empty_like(self.following)
        found[self.following] = np.arange(len(found))
        return found

    @cached_property
    def faces(self) -> int:
        return int(self.face[-1]) + 1 if len(self.face) else 0

    @cached_property
    def _edges(self) -> tuple[np.ndarray, np.ndarray]:
        if self.known_edges is not None:
            return self.known_edges
        a, b = self.corners, self.corners[self.following]
        keys = (np.minimum(a, b) << 32) | np.maximum(a, b)
        unique, edge = np.unique(keys, return_inverse=True)
        return np.column_stack([unique >> 32, unique & 0xFFFFFFFF]), edge

    @property
    def ends(self) -> np.ndarray:
        """(e, 2) vertices at the ends of each edge."""
        return self._edges[0]

    @property
    def edge(self) -> np.ndarray:
        """(c,) the edge from each corner to the following one."""
        return self._edges[1]

    @cached_property
    def around_edge(self) -> np.ndarray:
        """(e,) faces at each edge."""
        return np.bincount(self.edge, minlength=len(self.ends))

    @cached_property
    def edge_sharp(self) -> np.ndarray:
        """(e,) sharpness; that of an edge of one face, or of more than two, is without end."""
        found = np.zeros(len(self.ends))
        np.maximum.at(found, self.edge, self.sharp)
        found[self.around_edge != 2] = np.inf
        return found

    @cached_property
    def valence(self) -> np.ndarray:
        """(size, 1) faces at each vertex."""
        return np.bincount(self.corners, minlength=self.size)[:, None].astype(np.float64)

    def across(self, values: np.ndarray, edges: np.ndarray | None = None) -> np.ndarray:
        """(size, width) sums of what lies at the other ends of the edges of each vertex, or of some edges."""
        a, b = (self.ends if edges is None else self.ends[edges]).T
        return gathered(np.concatenate([a, b]), np.concatenate([values[b], values[a]]), self.size)

    @cached_property
    def creased(self) -> tuple[np.ndarray, np.ndarray]:
        """((size, 1) sharp edges at each vertex, (size, 1) how much it is held by them [0, 1])."""
        is_sharp = (self.edge_sharp > 0).astype(np.float64)
        ends = self.ends.ravel()
        counts = np.bincount(ends, np.repeat(is_sharp, 2), self.size)
        held = np.minimum(np.repeat(self.edge_sharp, 2), 1e6)
        mean = np.bincount(ends, held, self.size) / np.maximum(counts, 1)
        # A boundary that ends in one face alone is a corner.
        single = (self.valence[:, 0] == 1) & (counts >= 2)
        hard = self.hard | single
        counts[hard] = 3
        mean[hard] = np.inf
        return counts[:, None], np.where(counts < 2, 0.0, np.minimum(mean, 1.0))[:, None]

    def held(self, values: np.ndarray, smooth: np.ndarray, own: float, shares: float) -> np.ndarray:
        """Values of vertices between smooth ones and those of a crease, `own` of itself to 1 of each end, of `shares`
        in all; where more than two edges meet, or it is hard, a vertex stays as it is. Changes `smooth`."""
        counts, held = self.creased
        at = np.flatnonzero(held[:, 0] > 0)
        if len(at):
            crease = (own * values[at] + self.across(values, np.flatnonzero(self.edge_sharp > 0))[at]) / shares
            kept = np.where(counts[at] == 2, crease, values[at])
            smooth[at] = np.where(held[at] >= 1, kept, smooth[at] * (1 - held[at]) + kept * held[at])
        unused = self.valence[:, 0] == 0
        smooth[unused] = values[unused]
        return smooth

    # One step

    def catmull_clark(self, values: np.ndarray) -> np.ndarray:
        """(size + e + f, width): vertices, points of edges, points of faces."""
        corners = np.bincount(self.face, minlength=self.faces)[:, None]
        faces = gathered(self.face, values[self.corners], self.faces) / corners
        a, b = values[self.ends[:, 0]], values[self.ends[:, 1]]
        beside = gathered(self.edge, faces[self.face], len(self.ends))
        held = np.minimum(self.edge_sharp, 1.0)[:, None]
        edges = (1 - held) * (a + b + beside) / (2 + self.around_edge[:, None]) + held * (a + b) / 2
        n = np.maximum(self.valence, 1)
        around = self.across(values) + gathered(self.corners, faces[self.face], self.size)
        return np.concatenate([self.held(values, (n - 2) / n * values + around / n**2, 6, 8), edges, faces])

    def quartered_quads(self) -> "Net":
        """The net of `catmull_clark`: a quadrangle at every corner."""
        c = np.arange(len(self.corners))
        before = self.preceding
        edges, faces = self.size + self.edge, self.size + len(self.ends) + self.face
        corners = np.column_stack([self.corners, edges, faces, edges[before]])
        less = np.maximum(self.sharp - 1, 0)
        zero = np.zeros(len(c))
        sharp = np.column_stack([less, zero, zero, less[before]])
        # An edge has two halves; from its point one edge goes to the point of each face beside it.
        within = 2 * len(self.ends) + c
        edge = np.column_stack([self._half(c), within, within[before], self._half(before, c)])
        ends = np.concatenate([self._halves(), np.column_stack([edges, faces])])
        return _regular(corners, sharp, self._grown(len(self.ends) + self.faces), (ends, edge.ravel()))

    def _halves(self) -> np.ndarray:
        """(2 e, 2) ends of the halves of the edges: from the first end to its point, from that to the second."""
        points = self.size + np.arange(len(self.ends))
        a, b = self.ends.T
        return np.stack([np.column_stack([a, points]), np.column_stack([points, b])], axis=1).reshape(-1, 2)

    def _half(self, of: np.ndarray, at: np.ndarray | None = None) -> np.ndarray:
        """Numbers of the halves of the edges that begin at corners `of`, on the side of corners `at`, or of those."""
        edge = self.edge[of]
        return 2 * edge + (self.corners[of if at is None else at] != self.ends[edge, 0])

    def loop(self, values: np.ndarray) -> np.ndarray:
        """(size + e, width): vertices and points of edges, of triangles."""
        a, b = values[self.ends[:, 0]], values[self.ends[:, 1]]
        beyond = gathered(self.edge, values[self.corners[self.preceding]], len(self.ends))
        held = np.minimum(self.edge_sharp, 1.0)[:, None]
        edges = (1 - held) * (3 * (a + b) + beyond) / 8 + held * (a + b) / 2
        n = np.maximum(self.valence, 1)
        beta = loop_weight(n)
        return np.concatenate([self.held(values, (1 - n * beta) * values + beta * self.across(values), 6, 8), edges])

    def quartered_triangles(self) -> "Net":
        """The net of `loop`: four triangles for each."""
        vertex, edge = self.corners.reshape(-1, 3), (self.size + self.edge).reshape(-1, 3)
        less = np.maximum(self.sharp - 1, 0).reshape(-1, 3)
        corners, sharp = [edge], [np.zeros(edge.shape)]
        # Each triangle has three new edges within, one across each of its corners.
        number = np.arange(len(self.corners)).reshape(-1, 3)
        within = 2 * len(self.ends) + number
        edges = [within[:, [1, 2, 0]]]
        for i in range(3):
            before = (i + 2) % 3
            corners.append(np.column_stack([vertex[:, i], edge[:, i], edge[:, before]]))
            sharp.append(np.column_stack([less[:, i], np.zeros(len(less)), less[:, before]]))
            halves = self._half(number[:, i]), self._half(number[:, before], number[:, i])
            edges.append(np.column_stack([halves[0], within[:, i], halves[1]]))
        across = np.column_stack([edge.ravel(), edge[:, [2, 0, 1]].ravel()])
        known = np.concatenate([self._halves(), across]), np.concatenate(edges).ravel()
        return _regular(np.concatenate(corners), np.concatenate(sharp), self._grown(len(self.ends)), known)

    def _grown(self, more: int) -> np.ndarray:
        return np.concatenate([self.hard, np.zeros(more, bool)])

    # Where vertices end up

    def catmull_clark_limit(self, values: np.ndarray) -> np.ndarray:
        """(size, width) on the surface that endless steps lead to; all faces are quadrangles."""
        opposite = self.corners[self.following[self.following]]
        n = np.maximum(self.valence, 1)
        beyond = gathered(self.corners, values[opposite], self.size)
        smooth = (n * n * values + 4 * self.across(values) + beyond) / (n * (n + 5))
        return self.held(values, smooth, 4, 6)

    def loop_limit(self, values: np.ndarray) -> np.ndarray:
        """(size, width) on the surface that endless steps lead to; all faces are triangles."""
        n = np.maximum(self.valence, 1)
        own = 3 / (8 * loop_weight(n))
        return self.held(values, (own * values + self.across(values)) / (own + n), 4, 6)


def loop_weight(valence: np.ndarray) -> np.ndarray:
    """Share of each neighbour of a vertex with some number of them."""
    return np.asarray((0.625 - (0.375 + np.cos(2 * np.pi / valence) / 4) ** 2) / valence)


def _regular(corners: np.ndarray, sharp: np.ndarray, hard: np.ndarray, edges: tuple[np.ndarray, np.ndarray]) -> Net:
    """A net of faces with the same number of corners, (f, k), whose edges are known."""
    faces, k = corners.shape
    numbers = np.arange(faces * k).reshape(faces, k)
    return Net(
        corners.ravel(), np.repeat(np.arange(faces), k), np.roll(numbers, -1, axis=1).ravel(), len(hard),
        sharp.ravel(), hard, edges,
    )  # fmt: skip


def net_of(counts: np.ndarray, corners: np.ndarray, sharp: np.ndarray, hard: np.ndarray) -> Net:
    """A net of faces of (f,) corners each, over len(hard) vertices."""
    following = np.arange(len(corners)) + 1
    ends = np.cumsum(counts)
    following[ends - 1] = ends - counts
    return Net(corners, np.repeat(np.arange(len(counts)), counts), following, len(hard), sharp, hard)
