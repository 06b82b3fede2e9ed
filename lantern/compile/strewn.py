"""The copies of the parts of a document that are strewn over others.

In: a document, the meshes that its parts are shown as, where they stand. Out: poses of copies, and what could not be
had. Called by `geometry`. What was laid is kept while nothing that it depends on changes.
"""

from collections.abc import Sequence
from itertools import compress
from operator import attrgetter

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.compile.stock import Stock
from lantern.motion.poses import mesh_poses
from lantern.scene.document import Part, Scene, Shutter
from lantern.shaping.scattering import MOST_COPIES, Ground, Lying, lying, poses_of


class Strewn:
    """Copies by the number of the part that is strewn."""

    def __init__(self, stock: Stock) -> None:
        self._stock = stock
        self._lying: dict[int, tuple[tuple[object, ...], Lying]] = {}
        self._poses: dict[int, tuple[tuple[object, ...], np.ndarray]] = {}
        self.problems: list[str] = []
        """What of the document's wishes could not be had."""

    def poses(self, scene: Scene, poses: Sequence[np.ndarray]) -> dict[int, np.ndarray]:
        """(n, steps, 3, 4) of the copies of each part that is strewn; `poses` are those of all parts as they stand.

        A part that cannot be strewn is left out: it stands where it stood. Arrays are the same while nothing changes.
        """
        self.problems = []
        strewn = list(compress(enumerate(scene.parts.values()), map(attrgetter("strewn"), scene.parts.values())))
        numbers = {key: number for number, key in enumerate(scene.parts)} if strewn else {}
        laid: dict[int, tuple[tuple[object, ...], Lying]] = {}
        posed: dict[int, tuple[tuple[object, ...], np.ndarray]] = {}
        for number, part in strewn:
            assert part.strewn is not None
            over = scene.parts.get(part.strewn.over)
            if over is None or over is part or over.strewn is not None:
                said = "is gone" if over is None else "is strewn itself"
                self.problems.append(f"{part.name}: what it was strewn over {said}; it stands by itself")
                continue
            carried_by = poses[numbers[part.strewn.over]]
            ground = self._stock.surface_of(over, self._stock.numbers[numbers[part.strewn.over]])
            laid[number] = self._laid(number, part, ground, carried_by, scene.shutter)
            posed[number] = self._posed(number, laid[number][1], poses[number][0], carried_by)
        self._lying, self._poses = laid, posed
        return {number: poses for number, (_, poses) in posed.items()}

    def lying(self, number: int) -> Lying | None:
        """How the copies of a part lie, as `poses` laid them last; None of one that is not strewn."""
        return self._lying[number][1] if number in self._lying else None

    def _posed(
        self, number: int, copies: Lying, pose: np.ndarray, carried_by: np.ndarray
    ) -> tuple[tuple[object, ...], np.ndarray]:
        mesh = self._stock.meshes[self._stock.numbers[number]]
        key = (mesh, copies, pose.tobytes(), carried_by.tobytes())
        known = self._poses.get(number)
        if known is not None and known[0] == key:
            return known
        return key, poses_of(copies, foot_of(mesh, pose), pose, carried_by)

    def _laid(
        self, number: int, part: Part, mesh: Mesh, carried_by: np.ndarray, shutter: Shutter
    ) -> tuple[tuple[object, ...], Lying]:
        scatter, textures = part.strewn, self._stock.textures
        assert scatter is not None
        moment = shutter if mesh.shapes is not None else None
        key = (mesh, scatter, carried_by[0].tobytes(), moment)
        known = self._lying.get(number)
        if known is None or known[0] != key:
            texture = self._mask(part, mesh, textures)
            ground = _ground(mesh, carried_by, shutter, 0 if scatter.mask is None else scatter.mask.uv_set)
            known = key, lying(ground, scatter, texture)
        self._complain(part, known[1])
        return known

    def _mask(self, part: Part, mesh: Mesh, textures: Sequence[Texture]) -> Texture | None:
        mask = part.strewn.mask if part.strewn else None
        if mask is None:
            return None
        if mesh.uvs is None or mask.uv_set >= len(mesh.uvs):
            self.problems.append(f"{part.name}: what it is strewn over has no texture coordinates for its mask")
            return None
        return textures[mask.texture]

    def _complain(self, part: Part, copies: Lying) -> None:
        if copies.is_capped:
            most = f"{MOST_COPIES / 1e6:.0f} million"
            self.problems.append(f"{part.name}: {most} copies are tried, and no more can be: lower the density")


def foot_of(mesh: Mesh, pose: np.ndarray) -> np.ndarray:
    """The middle of the foot of a mesh where it stands [m]."""
    points = mesh.positions.astype(np.float64) @ pose[:, :3].T + pose[:, 3]
    low, high = points.min(axis=0), points.max(axis=0)
    return np.array([(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2])


def _ground(mesh: Mesh, poses: np.ndarray, shutter: Shutter, uv_set: int) -> Ground:
    positions, normals = mesh.positions, mesh.normals
    if mesh.shapes is not None:
        positions = mesh_poses(mesh.shapes.times, mesh.shapes.positions, shutter)[0]
        normals = mesh_poses(mesh.shapes.times, mesh.shapes.normals, shutter)[0]
    uvs = mesh.uvs[uv_set] if mesh.uvs is not None and uv_set < len(mesh.uvs) else None
    return Ground(positions, normals, mesh.indices, uvs, poses)
