"""Grids of distances to parts, for masks that ask how near something is, or how much is hidden.

In: a document, the meshes of its parts and where they stand at rest. Out: rows of `GRID`, their numbers. Called by
`compiled`. A grid is made again when what it is of has moved; an edit of a mask makes none.
"""

from collections.abc import Iterable, Sequence

import numpy as np
from scipy.spatial import cKDTree

from lantern.assets.mesh import Mesh
from lantern.pattern.near import GRID, GRID_WIDTH
from lantern.scene.document import Material, Scene
from lantern.scene.inputs import MaterialInput
from lantern.scene.sources import DistanceSource, OcclusionSource

ALL = ""
"""The name of the grid of everything that is there."""
CELLS, POINTS = 64, 60_000
"""Of a grid along its longest side; on a surface, by area."""
_BEYOND = 0.15
"""Of its size, around what it is of."""


def asked_for(materials: Iterable[Material]) -> set[str]:
    """Keys of the parts whose distance some input asks for, and ALL where one asks what is hidden."""
    found: set[str] = set()
    for material in materials:
        masks = (one for layer in material.layers for one in layer.inputs())
        for one in (*material.inputs.values(), *masks) if material.inputs or material.layers else ():
            name = grid_name(one)
            if name is not None:
                found.add(name)
    return found


def grid_name(one: MaterialInput) -> str | None:
    """The grid that an input looks up; None for none."""
    if isinstance(one.source, OcclusionSource):
        return ALL
    return one.source.part if isinstance(one.source, DistanceSource) else None


class NearGrids:
    """The grids of a scene by number; numbers stay what they are."""

    def __init__(self) -> None:
        self._numbers: dict[str, int] = {}
        self._made: dict[str, tuple[tuple[object, ...], np.ndarray, object]] = {}
        """By name: what a grid was made of, its row, what that points to."""
        self.problems: list[str] = []
        """What of the document's wishes could not be had."""

    def number_of(self, one: MaterialInput) -> int:
        """The number of the grid that an input looks up."""
        name = grid_name(one)
        return 0 if name is None else self._numbers.setdefault(name, len(self._numbers) + 1)

    @property
    def rows(self) -> np.ndarray:
        """(n, GRID_WIDTH) uint64; the first, and those of parts that are gone, are of nothing."""
        rows = np.zeros((len(self._numbers) + 1, GRID_WIDTH), np.uint64)
        for name, number in self._numbers.items():
            if name in self._made:
                rows[number] = self._made[name][1]
        return rows

    def bring(self, scene: Scene, meshes: Sequence[Mesh], poses: Sequence[np.ndarray], keys: Sequence[str]) -> None:
        """Bring them to a document, whose parts stand by `poses` (3, 4) in the order of their `keys`."""
        wanted = asked_for(scene.materials.values())
        self.problems = [
            f"A mask asks how far the part {name} is, which is not there: nothing is near it"
            for name in sorted(wanted - {ALL})
            if name not in scene.parts
        ]
        made = {}
        for name in wanted:
            numbers = [n for n, key in enumerate(keys) if _counts(scene, key) if name in (ALL, key)]
            of = tuple(x for n in numbers for x in (meshes[n], poses[n].tobytes()))
            if not numbers:
                continue
            known = self._made.get(name)
            is_known = known is not None and len(known[0]) == len(of)
            if known is not None and is_known and all(a is b or a == b for a, b in zip(known[0], of, strict=True)):
                made[name] = known
            else:
                row, kept = _grid([(meshes[n], poses[n]) for n in numbers])
                made[name] = of, row, kept
        self._made = made


def _counts(scene: Scene, key: str) -> bool:
    """Whether a part hides others: what is strewn is too much to be looked at, what is unseen is not there."""
    part = scene.parts[key]
    return part.visible and part.strewn is None


def _grid(parts: Sequence[tuple[Mesh, np.ndarray]]) -> tuple[np.ndarray, object]:
    """(row of GRID, what it points to) of distances to some parts."""
    points = _surface([mesh.positions @ pose[:, :3].T + pose[:, 3] for mesh, pose in parts], [m for m, _ in parts])
    low, high = points.min(axis=0), points.max(axis=0)
    size = max(float((high - low).max()), 1e-6)
    low, high = low - _BEYOND * size, high + _BEYOND * size
    side = float((high - low).max()) / (CELLS - 1)
    counts = np.maximum(np.ceil((high - low) / side).astype(int) + 1, 2)
    axes = [low[axis] + side * np.arange(counts[axis]) for axis in range(3)]
    z, y, x = np.meshgrid(axes[2], axes[1], axes[0], indexing="ij")
    places = np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1)
    distances, _ = cKDTree(points).query(places, workers=-1)
    values = np.ascontiguousarray(distances.reshape(x.shape), np.float32)
    frame = np.array([*low, 1 / side], np.float32)
    named: dict[str, np.ndarray | int] = {
        "values": values, "frame": frame, "across": int(counts[0]), "up": int(counts[1]), "deep": int(counts[2]),
    }  # fmt: skip
    return GRID.block(named), (values, frame)


def _surface(positions: Sequence[np.ndarray], meshes: Sequence[Mesh]) -> np.ndarray:
    """(n, 3) points of surfaces [m], as many as POINTS by their areas, always the same ones."""
    corners = np.concatenate([p[mesh.indices] for p, mesh in zip(positions, meshes, strict=True)])
    edges = corners[:, 1:] - corners[:, :1]
    areas = np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1)
    chances = np.cumsum(areas)
    if not len(chances) or chances[-1] <= 0:
        return np.concatenate(list(positions))
    rng = np.random.default_rng(1)
    which = np.searchsorted(chances, (np.arange(POINTS) + rng.random(POINTS)) * chances[-1] / POINTS)
    which = np.minimum(which, len(corners) - 1)
    u, v = rng.random((2, POINTS))
    over = u + v > 1
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    return corners[which, 0] + u[:, None] * edges[which, 0] + v[:, None] * edges[which, 1]
