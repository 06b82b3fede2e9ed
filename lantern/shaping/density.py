"""Finer meshes of those that were brought in: subdivided, then displaced.

In: a mesh, what a document wants of it. Out: a mesh, and how many triangles it will have before it is made. Called by
`compile.stock`.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from lantern.assets.cage import INFINITE, Cage, Channel
from lantern.assets.mesh import Mesh
from lantern.assets.smoothing import SHARP_DEGREES, welded
from lantern.assets.textures import Texture
from lantern.shaping.displacing import Heights, Moves, Relief, displaced, moves_by_pattern, moves_of
from lantern.shaping.nets import net_of
from lantern.shaping.quads import paired
from lantern.shaping.subdividing import Scheme, cut, sharp_corners, subdivided
from lantern.shaping.surface import Surface, surface_of

MOST_TRIANGLES = 12_000_000
"""Of one mesh: what it takes while it is made stays within 7 GiB."""
BYTES_A_TRIANGLE = 130
"""Of a mesh in a scene: its vertices, its indices and the tree over it."""


@dataclass(frozen=True)
class Density:
    """How fine a mesh is to be: steps of a scheme, or the triangles that it has, smoothed anew.

    Edges at which faces meet at `crease` degrees or more stay sharp.
    """

    scheme: Scheme | None
    levels: int
    crease: float | None = None


class Shaper:
    """Makes finer meshes of one; what does not change with the displacement is kept."""

    def __init__(self, mesh: Mesh) -> None:
        self._mesh = mesh
        self._cages: dict[Scheme, Cage] = {}
        self._surfaces: dict[Density | None, Surface | None] = {}
        self._moves: tuple[object, Moves | None] | None = None

    def shaped(
        self, density: Density | None, relief: Relief | None, textures: Sequence[Texture], heights: Heights
    ) -> Mesh:
        """The mesh as a density and a relief have it; `heights` are asked of patterns.

        A mesh that deforms stays as it is.
        """
        if self._mesh.shapes is not None or not self._mesh.triangles:
            return self._mesh
        surface = self._surface(density)
        if surface is None:
            return self._mesh
        moves = None if relief is None else self._moved(density, surface, relief, textures, heights)
        return surface.mesh() if relief is None or moves is None else displaced(surface, relief, moves)

    def _moved(
        self,
        density: Density | None,
        surface: Surface,
        relief: Relief,
        textures: Sequence[Texture],
        heights: Heights,
    ) -> Moves | None:
        """What the image does to the surface: the last one is kept, so that a hand can move its height."""
        key = density, relief.texture, relief.along, relief.pattern, relief.metres
        if self._moves is None or self._moves[0] != key:
            if relief.texture is None:
                moves: Moves | None = moves_by_pattern(surface, relief, heights)
            else:
                moves = moves_of(surface, relief, textures[relief.texture.texture])
            self._moves = key, moves
        return self._moves[1]

    def keep(self, wanted: set[Density | None]) -> None:
        """Forget surfaces of other densities."""
        self._surfaces = {key: surface for key, surface in self._surfaces.items() if key in wanted}

    def triangles(self, density: Density | None) -> int:
        """How many triangles the mesh would have."""
        if density is None or density.scheme is None or not self._mesh.triangles or self._mesh.shapes is not None:
            return self._mesh.triangles
        cage = self._cage(density.scheme)
        if density.scheme == "loop":
            return int((cage.counts - 2).sum()) * 4**density.levels
        return 2 * len(cage.corners) * 4 ** (density.levels - 1)

    def _surface(self, density: Density | None) -> Surface | None:
        if density not in self._surfaces:
            self._surfaces[density] = self._made(density)
        return self._surfaces[density]

    def _made(self, density: Density | None) -> Surface | None:
        """The surface; None of a mesh whose triangles are all without area."""
        if density is None or density.scheme is None:
            # Displaced, or smoothed, at the vertices that it has.
            cage = cut(self._cage("loop"))
            cage = creased(cage, SHARP_DEGREES if density is None or density.crease is None else density.crease)
            net = net_of(cage.counts, cage.corners, sharp_corners(cage), np.zeros(len(cage.points), bool))
            whole = cage.points.astype(np.float64)
            return surface_of(net, whole, list(cage.uvs), cage.colors) if len(cage.corners) else None
        cage = self._cage(density.scheme)
        if not len(cage.corners):
            return None
        if density.crease is not None:
            cage = creased(cage, density.crease)
        return subdivided(cage, density.scheme, density.levels)

    def _cage(self, scheme: Scheme) -> Cage:
        if scheme not in self._cages:
            self._cages[scheme] = self._mesh.cage or cage_of(self._mesh, quads=scheme == "catmull_clark")
        return self._cages[scheme]


def cage_of(mesh: Mesh, *, quads: bool) -> Cage:
    """The cage of a mesh of triangles: vertices at one place are one; with `quads`, faces that were cut are whole."""
    points, corners = welded(mesh.positions, mesh.indices)
    kept = (corners != np.roll(corners, 1, axis=1)).all(axis=1)
    corners, indices = corners[kept], mesh.indices[kept].astype(np.int64)
    counts, chosen = np.full(len(corners), 3), np.arange(corners.size)
    if quads and len(corners):
        alike = corners if mesh.uvs is None and mesh.colors is None else indices
        counts, chosen = paired(points, corners, _seams(mesh, alike.ravel(), corners.ravel()))
    vertices = indices.ravel()[chosen]
    uvs = () if mesh.uvs is None else tuple(Channel.of(each, vertices) for each in mesh.uvs)
    colors = None if mesh.colors is None else Channel.of(mesh.colors, vertices)
    return Cage(points, counts, corners.ravel()[chosen], uvs, colors)


def _seams(mesh: Mesh, vertices: np.ndarray, points: np.ndarray) -> np.ndarray:
    """(3m,) numbers that are equal for corners at one point with the same texture coordinates and colours."""
    rows = [points.astype(np.float64)[:, None]]
    rows += [coordinates[vertices] for coordinates in mesh.uvs] if mesh.uvs is not None else []
    rows += [mesh.colors[vertices]] if mesh.colors is not None else []
    if len(rows) == 1:
        return points
    return np.asarray(np.unique(np.concatenate(rows, axis=1), axis=0, return_inverse=True)[1], np.int64)


def creased(cage: Cage, degrees: float) -> Cage:
    """A cage whose edges are sharp where faces meet at an angle of `degrees` or more."""
    net = net_of(cage.counts, cage.corners, np.zeros(len(cage.corners)), np.zeros(len(cage.points), bool))
    places = cage.points[cage.corners].astype(np.float64)
    following = places[net.following]
    # Newell's normal, of faces of any number of corners.
    cross = np.cross(places, following)
    normals = np.stack([np.bincount(net.face, cross[:, i], net.faces) for i in range(3)], axis=1)
    normals = normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    order = np.argsort(net.edge, kind="stable")
    begins = np.cumsum(net.around_edge) - net.around_edge
    inner = np.flatnonzero(net.around_edge == 2)
    a, b = net.face[order[begins[inner]]], net.face[order[begins[inner] + 1]]
    sharp = np.einsum("ei,ei->e", normals[a], normals[b]) <= np.cos(np.radians(degrees))
    ends = net.ends[inner[sharp]]
    return replace(
        cage,
        creases=np.concatenate([cage.creases, ends]),
        sharpness=np.concatenate([cage.sharpness, np.full(len(ends), INFINITE)]),
    )
