"""The geometry of a compiled scene: meshes and their trees, parts and where they stand, and what probes found on them.

In: an imported asset and the parts of a document. Out: tables and a tree for kernels. Called by `trace.compiled`.
"""

from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.kernel.memory import address, aligned
from lantern.motion.poses import mesh_poses, part_poses
from lantern.scene.document import Part, Scene, Shutter
from lantern.trace.embree import InstanceTree, MeshTree
from lantern.trace.layout import BOUNCE_RAY, CAMERA_RAY, MESH, PART, PROBE, SCRATCH_SLOTS, SHADOW_RAY
from lantern.trace.light_rows import LightRows
from lantern.trace.probe_kernels import probe_local_lights

MOST_CLUSTERS, PROBES_A_CLUSTER, GROUND_PROBES, MOST_PROBED_PARTS = 1024, 4, 256, 2048
LEAST_ARRIVAL = 0.05
"""Probes may miss the gap that light comes through: no cluster is taken to be darker than this share."""
GROUND_REACH = 3.0
"""Ground is probed over a disk of so many times the radius of what stands on it."""


def ray_mask(part: Part) -> int:
    """Which rays see a part."""
    if not part.visible:
        return 0
    return CAMERA_RAY * part.seen_by_camera | BOUNCE_RAY * part.seen_in_reflections | SHADOW_RAY * part.casts_shadow


@dataclass
class MeshTable:
    """Trees of all meshes and the rows that kernels read them by."""

    trees: list[MeshTree]
    rows: np.ndarray
    kept: list[np.ndarray]


def build_meshes(meshes: list[Mesh], shutter: Shutter) -> MeshTable:
    """One tree a mesh; a deforming one moves with the shutter."""
    rows = np.zeros((max(len(meshes), 1), MESH.width), np.uint64)
    trees: list[MeshTree] = []
    kept: list[np.ndarray] = []
    for row, mesh in zip(rows, meshes, strict=False):
        positions, normals = mesh.positions[None], mesh.normals[None]
        if mesh.shapes is not None:
            positions = mesh_poses(mesh.shapes.times, mesh.shapes.positions, shutter)
            normals = mesh_poses(mesh.shapes.times, mesh.shapes.normals, shutter)
        attributes = np.zeros((len(positions), len(mesh.positions), 5), np.float32)
        attributes[..., 1:4] = normals
        if mesh.uvs is not None:
            attributes[..., 0], attributes[..., 4] = mesh.uvs[:, 0], mesh.uvs[:, 1]
        tree = MeshTree(positions, mesh.indices, attributes)
        named: dict[str, np.ndarray | int] = {
            "vertices": tree.vertices,
            "indices": tree.indices,
            "has_uvs": int(mesh.uvs is not None),
            "steps": tree.steps,
            "count": len(mesh.positions),
        }
        if mesh.tangents is not None:
            named["tangents"] = mesh.tangents
            kept.append(mesh.tangents)
        row[:] = MESH.block(named)
        trees.append(tree)
    return MeshTable(trees, rows, kept)


class Geometry:
    """Parts of a scene as rows and instances; `update` moves them without building a mesh again."""

    def __init__(self, scene: Scene, meshes: list[Mesh], lights: LightRows) -> None:
        self._sources = meshes
        self.meshes = build_meshes(meshes, scene.shutter)
        self.tree = InstanceTree()
        self.keys = list(scene.parts)
        self.rows = PART.zeros(len(self.keys))
        self._poses: list[np.ndarray] = []
        self.pose_rows = np.zeros((1, 12), np.float32)
        self.rows_written = 0
        self.moves = False
        self._kept_probes: tuple[object, np.ndarray] | None = None
        for number, (key, part) in enumerate(scene.parts.items()):
            if part.mesh >= len(meshes):
                raise ValueError(
                    f"parts/{key}/mesh: the asset has {len(meshes)} meshes, there is no number {part.mesh}"
                )
            self._poses.append(part_poses(part, scene.shutter))
            self.tree.add(self.meshes.trees[part.mesh], self._poses[number], ray_mask(part))
        self._write_poses()
        self._place_clusters(list(scene.parts.values()))
        materials = {key: number for number, key in enumerate(scene.materials)}
        for number, part in enumerate(scene.parts.values()):
            self.write_part(number, part, materials[part.material], lights)
        self.tree.commit()

    def _write_poses(self) -> None:
        """Table of the poses of all moving parts; rows of the parts point into it."""
        moving = [(number, poses) for number, poses in enumerate(self._poses) if len(poses) > 1]
        begin = 0
        self.rows["poses"], self.rows["first_pose"] = 0, -1
        for number, poses in moving:
            self.rows[number]["first_pose"], self.rows[number]["poses"] = begin, len(poses)
            begin += len(poses)
        blocks = [poses.reshape(-1, 12) for _, poses in moving] or [np.zeros((1, 12))]
        self.pose_rows = np.concatenate(blocks).astype(np.float32)
        self.moves = bool(moving) or any(tree.steps > 1 for tree in self.meshes.trees)

    def write_part(self, number: int, part: Part, material: int, lights: LightRows) -> None:
        """Bring the row of a part to the document; its instance is moved by `place`."""
        matrix = self._poses[number][0]
        linear = matrix[:, :3]
        # Cofactors are the inverse transpose times the determinant; unlike the inverse they exist for flat scales.
        cofactors = np.stack(
            [np.cross(linear[1], linear[2]), np.cross(linear[2], linear[0]), np.cross(linear[0], linear[1])]
        )
        scale = np.abs(cofactors).max() or 1.0
        row = self.rows[number]
        row["matrix"], row["normal_matrix"] = matrix.ravel(), (cofactors / scale).ravel()
        # A mirrored part keeps its outside: triangle order flips, vertex normals do not.
        row["mirrored"] = np.linalg.det(linear) < 0
        if row["mirrored"]:
            row["normal_matrix"] = -row["normal_matrix"]
        row["mesh"], row["material"] = part.mesh, material
        row["receives_shadow"] = part.receives_shadow
        row["triangle_lights"] = lights.emitters.part_triangles.get(number, -1)
        row["links"] = lights.part_links[number]
        self.rows_written += 1

    def relight(self, lights: LightRows) -> None:
        """Bring what the rows know of the lights to other lights."""
        self.rows["triangle_lights"] = -1
        for number, begin in lights.emitters.part_triangles.items():
            self.rows[number]["triangle_lights"] = begin
        self.rows["links"] = lights.part_links[: len(self.rows)]

    def place(self, number: int, part: Part, shutter: Shutter) -> bool:
        """Move the instance of a part; False when it stands there already. `commit` ends a round of moves."""
        poses = part_poses(part, shutter)
        if np.array_equal(poses, self._poses[number]):
            return False
        self._poses[number] = poses
        self.tree.place(number, poses)
        return True

    def commit(self) -> None:
        """Make moved and shown parts take effect."""
        self._write_poses()
        self.tree.commit()

    def deforms(self) -> bool:
        """Whether some mesh must be built again for another shutter."""
        return any(mesh.shapes is not None for mesh in self._sources)

    def _place_clusters(self, parts: list[Part]) -> None:
        """Divide the triangles of each part into clusters of their own arrivals, about MOST_CLUSTERS in all."""
        most = max(MOST_CLUSTERS // max(len(parts), 1), 1)
        begin = 0
        for row, part in zip(self.rows, parts, strict=False):
            triangles, shift = max(len(self._sources[part.mesh].indices), 1), 0
            while (triangles - 1) >> shift >= most:
                shift += 1
            row["first_arrival"], row["cluster_shift"] = begin, shift
            begin += ((triangles - 1) >> shift) + 1
        self.arrivals = np.ones(max(begin, 1), np.float32)

    def _part_probes(self, number: int, part: Part, generator: np.random.Generator) -> np.ndarray:
        """Probes on every cluster of one part."""
        triangles, size = len(self._sources[part.mesh].indices), 1 << int(self.rows[number]["cluster_shift"])
        firsts = np.repeat(np.arange(0, triangles, size), PROBES_A_CLUSTER)
        probes = np.zeros(len(firsts), PROBE.dtype)
        probes["part"] = number
        probes["primitive"] = firsts + (generator.random(len(firsts)) * np.minimum(size, triangles - firsts)).astype(
            int
        )
        root, v = np.sqrt(generator.random(len(firsts))), generator.random(len(firsts))
        probes["u"], probes["v"] = root - root * v, root * v
        return probes

    def _ground_probes(
        self, scene: Scene, low: np.ndarray, high: np.ndarray, generator: np.random.Generator
    ) -> np.ndarray:
        """Probes on the ground around what stands on it."""
        probes = np.zeros(GROUND_PROBES, PROBE.dtype)
        radius = GROUND_REACH * float(np.linalg.norm((high - low)[[0, 2]])) / 2
        r, turn = radius * np.sqrt(generator.random(GROUND_PROBES)), generator.random(GROUND_PROBES) * 2 * np.pi
        centre = (low + high) / 2
        probes["part"], probes["v"] = -1, scene.ground.height
        probes["u"], probes["w"] = centre[0] + r * np.cos(turn), centre[2] + r * np.sin(turn)
        return probes

    def _probes_for(self, scene: Scene, low: np.ndarray, high: np.ndarray) -> np.ndarray:
        """The probes of a scene, kept while the same parts are visible and the ground around them is the same."""
        visible = [(n, part) for n, part in enumerate(scene.parts.values()) if part.visible][:MOST_PROBED_PARTS]
        key = ([n for n, _ in visible], low.tolist(), high.tolist(), scene.ground.height)
        if self._kept_probes is None or self._kept_probes[0] != key:
            generator = np.random.default_rng(5)
            parts = [self._part_probes(number, part, generator) for number, part in visible]
            grounded = np.isfinite(low).all()
            ground = self._ground_probes(scene, low, high, generator) if grounded else PROBE.zeros(0)[:0]
            self._kept_probes = key, np.concatenate([*parts, ground])
        return self._kept_probes[1]

    def probe(self, scene: Scene, block: np.ndarray, low: np.ndarray, high: np.ndarray) -> float:
        """Learn what share of the local lights' light arrives on each cluster; returns it for the ground.

        `low` and `high` bound the visible parts. Shares only say how often to aim at those lights: a wrong one costs
        noise, not truth.
        """
        probes = self._probes_for(scene, low, high)
        scratch = aligned((SCRATCH_SLOTS,), np.uint64)
        probe_local_lights(
            *(np.uint64(n) for n in (address(block), self.tree.handle, address(scratch), address(probes))), len(probes)
        )
        on_ground = probes["part"] < 0
        clusters = self.rows["first_arrival"][probes["part"]] + (
            probes["primitive"] >> self.rows["cluster_shift"][probes["part"]]
        )
        count = len(self.arrivals)
        sent = np.bincount(clusters[~on_ground], probes["sent"][~on_ground], count)
        arrived = np.bincount(clusters[~on_ground], probes["arrived"][~on_ground], count)
        shares = np.divide(arrived, sent, out=np.ones(count), where=sent > 0)
        self.arrivals[:] = np.clip(shares, LEAST_ARRIVAL, 1.0)
        ground = probes[on_ground]
        total = float(ground["sent"].sum())
        return float(np.clip(ground["arrived"].sum() / total, LEAST_ARRIVAL, 1.0)) if total > 0 else 1.0
