"""The geometry of a compiled scene: meshes and their trees, parts and where they stand, who sees them.

In: an imported asset and the parts of a document. Out: tables and a tree for kernels. Called by `compile.compiled`.
"""

import zlib
from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.compile.changes import touched
from lantern.compile.clusters import clusters_of
from lantern.compile.dresses import Dress, numbers_worn
from lantern.compile.edge_rows import EdgeRows, WantedEdges, edge_reaches
from lantern.compile.glow import glows
from lantern.compile.light_rows import LightRows
from lantern.compile.stock import Stock
from lantern.compile.strewn import Strewn
from lantern.kernel.memory import aligned
from lantern.motion.poses import mesh_poses, part_poses
from lantern.rays.embree import InstanceTree, MeshTree
from lantern.rays.layout import BOUNCE_RAY, CAMERA_RAY, GLOW_RAY, MESH, PART, SHADOW_RAY
from lantern.scene.document import Part, Scene, Shutter
from lantern.scene.placing import Places, stands

_SCATTERED = BOUNCE_RAY | SHADOW_RAY


def glowing_materials(scene: Scene) -> set[str]:
    """Keys of the materials that send out light of their own."""
    return {key for key, material in scene.materials.items() if glows(material)}


def ray_mask(part: Part, *, shines: bool) -> int:
    """Which rays see a part, which may have a material that glows."""
    if not part.visible:
        return 0
    return (
        CAMERA_RAY * part.seen_by_camera
        | BOUNCE_RAY * part.seen_in_reflections
        | SHADOW_RAY * part.casts_shadow
        | GLOW_RAY * shines
    )


def is_apart(mask: int, part: Part) -> bool:
    """Whether the light that reaches a part or goes by it is another than what scattered rays say of it."""
    if not part.visible:
        return False
    whole = mask & _SCATTERED == _SCATTERED
    return not part.receives_shadow or (not whole and bool(mask & (_SCATTERED | GLOW_RAY)))


@dataclass(frozen=True, eq=False)
class BuiltMesh:
    """A mesh, its tree, and what the row that kernels read it by points to."""

    mesh: Mesh
    tree: MeshTree
    row: np.ndarray
    kept: tuple[np.ndarray, ...]

    def bent(self, shutter: Shutter) -> "BuiltMesh":
        """The mesh as it is under another shutter: itself with its tree fitted anew, if it has as many poses then."""
        positions, normals = _shaped(self.mesh, shutter)
        if len(positions) != self.tree.steps:
            return built(self.mesh, shutter)
        self.tree.bend(positions, normals)
        return self


def _shaped(mesh: Mesh, shutter: Shutter) -> tuple[np.ndarray, np.ndarray]:
    """(positions, normals) (steps, n, 3) from shutter open to close."""
    if mesh.shapes is None:
        return mesh.positions[None], mesh.normals[None]
    times = mesh.shapes.times
    return mesh_poses(times, mesh.shapes.positions, shutter), mesh_poses(times, mesh.shapes.normals, shutter)


def built(mesh: Mesh, shutter: Shutter) -> BuiltMesh:
    """A mesh with its tree; a deforming one moves with the shutter."""
    positions, normals = _shaped(mesh, shutter)
    tree = MeshTree(positions, mesh.indices, normals, bends=mesh.shapes is not None)
    arrays = {
        name: np.ascontiguousarray(array, np.float32)
        for name in ("tangents", "uvs", "colors")
        if (array := getattr(mesh, name)) is not None
    }
    named: dict[str, np.ndarray | int] = {
        "vertices": tree.vertices,
        "indices": tree.indices,
        "uv_sets": 0 if mesh.uvs is None else len(mesh.uvs),
        "steps": tree.steps,
        "count": len(mesh.positions),
        **arrays,
    }
    return BuiltMesh(mesh, tree, MESH.block(named), tuple(arrays.values()))


class Geometry:
    """Parts of a scene as rows and instances; `update` moves them without building a mesh again."""

    meshes: list[BuiltMesh]
    strewn: Strewn
    """The copies of parts, which know what they were laid by."""
    edges: EdgeRows
    """Of the parts whose edges are shaded as rounded, or whose materials ask for them."""

    def __init__(
        self,
        scene: Scene,
        stock: Stock,
        lights: LightRows,
        worn: Mapping[Dress, int],
        before: "Geometry | None" = None,
    ) -> None:
        """`worn` are the numbers of what parts wear.

        The trees of meshes that `before` has built are taken from it, and bent where they deform; it is to be used no
        more.
        """
        self.worn, self._shutter = worn, scene.shutter
        known = {} if before is None else {id(one.mesh): one for one in before.meshes}
        if before is not None and before._shutter != scene.shutter:
            known = {key: one if one.mesh.shapes is None else one.bent(scene.shutter) for key, one in known.items()}
        self.meshes = [known.get(id(mesh)) or built(mesh, scene.shutter) for mesh in stock.meshes]
        there = set() if before is None else {id(one) for one in before.meshes}
        self.trees_built = sum(id(one) not in there for one in self.meshes)
        rows = [one.row for one in self.meshes] or [np.zeros(MESH.width, np.uint64)]
        self.mesh_rows = np.concatenate([row.reshape(1, -1) for row in rows])
        self._meshes_of = np.array(stock.numbers, np.int64)
        self.tree = InstanceTree()
        self.keys = list(scene.parts)
        self.numbers = {key: number for number, key in enumerate(self.keys)}
        self.rows = PART.zeros(len(self.keys))
        self.edges = EdgeRows() if before is None else before.edges
        self.pose_rows = aligned((1, 12), np.float32)
        self.moves = False
        parts = list(scene.parts.values())
        self._places = Places.of(scene)
        # (steps, 3, 4) of each part, from shutter open to close.
        self.poses = [part_poses(part, scene.shutter, self._places) for part in parts]
        self.strewn = Strewn(stock) if before is None else before.strewn
        self.copies = self.strewn.poses(scene, self.poses)
        self._glowing = glowing_materials(scene)
        self._steps = np.array([len(poses) for poses in self.poses], np.int64)
        self._masks = np.array([ray_mask(part, shines=part.material in self._glowing) for part in parts], np.int64)
        for number, mesh in enumerate(self._meshes_of):
            self.tree.add(self.meshes[mesh].tree, self.placed(number), int(self._masks[number]))
        triangles = np.array([mesh.triangles for mesh in stock.meshes], np.int64)
        self.clusters = clusters_of(triangles[self._meshes_of])
        self.rows["first_arrival"][: len(parts)] = self.clusters.first
        self.rows["cluster_shift"][: len(parts)] = self.clusters.shift
        masked = zip(self._masks.tolist(), parts, strict=True)
        self._are_apart = np.array([is_apart(mask, part) for mask, part in masked], bool)
        self._write(range(len(parts)), scene, lights)
        self._commit()
        self._reaches = edge_reaches(scene.materials)
        self._find_edges(scene)

    def placed(self, number: int) -> np.ndarray:
        """(steps, 3, 4) poses of a part from shutter open to close; (n, steps, 3, 4) of one that is strewn."""
        return self.copies.get(number, self.poses[number])

    def copy_counts(self) -> np.ndarray:
        """(parts,) int, how often each part stands in the scene."""
        counts = np.ones(len(self.keys), np.int64)
        for number, poses in self.copies.items():
            counts[number] = len(poses)
        return counts

    def _commit(self) -> None:
        """Make moved, strewn and shown parts take effect."""
        begin, blocks = 0, [np.zeros((1, 12))]
        self.moves = any(one.tree.steps > 1 for one in self.meshes)
        self.rows["poses"], self.rows["first_pose"], self.rows["strewn"] = 1, -1, 0
        for number in {*np.flatnonzero(self._steps > 1).tolist(), *self.copies}:
            placed, row = self.placed(number), self.rows[number]
            row["first_pose"], row["poses"], row["strewn"] = begin, placed.shape[-3], placed.ndim == 4
            blocks.append(placed.reshape(-1, 12))
            begin += len(blocks[-1])
            self.moves |= placed.shape[-3] > 1
        self.pose_rows = np.concatenate(blocks[1:] or blocks).astype(np.float32)
        self.tree.commit()

    @property
    def apart(self) -> bool:
        """Whether some part is lit, or hides light, otherwise than scattered rays say of it."""
        return bool(self._are_apart.any())

    def _write(self, numbers: Collection[int], scene: Scene, lights: LightRows) -> None:
        """Bring the rows of some parts to the document."""
        if not len(numbers):
            return
        at = np.fromiter(numbers, np.int64)
        values = list(scene.parts.values())
        parts = [values[number] for number in at]
        keys = [self.keys[number] for number in at]
        matrices = np.stack([self.poses[number][0] for number in at])
        linear = matrices[:, :, :3]
        # Cofactors are the inverse transpose times the determinant; unlike the inverse they exist for flat scales.
        cofactors = np.cross(linear[:, [1, 2, 0]], linear[:, [2, 0, 1]])
        largest = np.abs(cofactors).max(axis=(1, 2))
        # A mirrored part keeps its outside, unless that is turned in: triangle order flips, vertex normals do not.
        mirrored = (np.linalg.det(linear) < 0) ^ np.array([part.inside_out for part in parts])
        scale = np.where(mirrored, -1.0, 1.0) / np.where(largest > 0, largest, 1.0)
        self.rows["matrix"][at] = matrices.reshape(-1, 12)
        self.rows["normal_matrix"][at] = (cofactors * scale[:, None, None]).reshape(-1, 9)
        self.rows["mirrored"][at] = mirrored
        self.rows["metres"][at] = np.cbrt(np.abs(np.linalg.det(linear)))
        self.rows["chance"][at] = [zlib.crc32(key.encode()) & 0x7FFFFFFF for key in keys]
        self.rows["mesh"][at] = self._meshes_of[at]
        self.rows["material"][at] = numbers_worn(keys, parts, self.worn)
        self.rows["receives_shadow"][at] = [part.receives_shadow for part in parts]
        self.rows["glossy"][at] = [part.seen_in_reflections for part in parts]
        self.relight(lights)

    def relight(self, lights: LightRows) -> None:
        """Bring what the rows know of the lights to other lights."""
        self.rows["triangle_lights"] = -1
        for number, begin in lights.emitters.part_triangles.items():
            self.rows[number]["triangle_lights"] = begin
        self.rows["links"] = lights.part_links[: len(self.rows)]

    def update(
        self, before: Scene, scene: Scene, lights: LightRows, worn: Mapping[Dress, int], *, renumbered: bool
    ) -> tuple[int, bool]:
        """(rows written, whether something in the tree has changed) to bring the same parts to another document.

        `renumbered` says that what parts wear has other numbers than before.
        """
        self.worn = worn
        changed, moved, values = [], False, list(scene.parts.values())
        other_shutter = scene.shutter != before.shutter
        restood = scene.asset != before.asset
        if restood or scene.part_groups != before.part_groups:
            self._places, restood = Places.of(scene), True
        glowed, self._glowing = self._glowing, glowing_materials(scene)
        is_every = renumbered or restood or other_shutter or glowed != self._glowing
        every = zip(range(len(values)), before.parts.values(), values, strict=True)
        some = ((n, old, part) for n, _, old, part in touched(before.parts, scene.parts) if old is not None)
        for number, old, part in every if is_every else some:
            shines = part.material in self._glowing
            same = part == old and shines == (old.material in glowed)
            if same and not renumbered and not restood and not (other_shutter and part.keys):
                continue
            moves = restood or stands(part) != stands(old) or (other_shutter and bool(part.keys))
            if moves:
                poses = part_poses(part, scene.shutter, self._places)
                if not np.array_equal(poses, self.poses[number]):
                    self.poses[number], self._steps[number], moved = poses, len(poses), True
                    if number not in self.copies:
                        self.tree.place(number, poses)
            mask = ray_mask(part, shines=shines)
            if mask != self._masks[number]:
                self._masks[number], moved = mask, True
                self.tree.show(number, mask)
            self._are_apart[number] = is_apart(mask, part)
            if moves or renumbered or part != old:
                changed.append(number)
        if moved or changed:
            moved |= self._strew(scene)
        self._write(changed, scene, lights)
        if moved or changed:
            self._commit()
        reaches = self._reaches if scene.materials is before.materials else edge_reaches(scene.materials)
        rounds = any(values[number].edge_radius is not None for number in changed)
        if changed or moved or reaches != self._reaches:
            self._reaches, before_them = reaches, self._reaches
            if self.edges.are_there or rounds or reaches or before_them:
                self._find_edges(scene)
        return len(changed), moved

    def _find_edges(self, scene: Scene) -> None:
        """Bring the rows of edges to the parts as they stand."""
        asked = []
        for number, part in enumerate(scene.parts.values()):
            placed = number, part, self.meshes[self._meshes_of[number]].mesh, self.poses[number][0]
            if part.edge_radius is not None:
                asked.append(WantedEdges(*placed, part.edge_radius, rounds=True))
            if part.material in self._reaches:
                asked.append(WantedEdges(*placed, self._reaches[part.material], rounds=False))
        self.rows["rounding"], self.rows["edges"] = -1, -1
        for one, row in zip(asked, self.edges.bring(asked), strict=True):
            self.rows[one.number]["rounding" if one.rounds else "edges"] = row

    def _strew(self, scene: Scene) -> bool:
        """Lay the copies of parts that are strewn anew, where something has changed them; whether that was so."""
        before, self.copies = self.copies, self.strewn.poses(scene, self.poses)
        other = {n for n in {*before, *self.copies} if before.get(n) is not self.copies.get(n)}
        for number in other:
            self.tree.place(number, self.placed(number))
        return bool(other)

    def deforms(self) -> bool:
        """Whether some mesh must be built again for another shutter."""
        return any(one.mesh.shapes is not None for one in self.meshes)
