"""The compiled scene: what the kernels read, kept in step with the document at the least cost.

In: a `Scene`, an imported asset, an environment map. Out: a block of addresses and a tree. Called by the engine.
A colour changes one row of a table; a placement one instance; nothing rebuilds a mesh but a new mesh.
"""

from dataclasses import dataclass

import numpy as np

from lantern.assets.gltf import ImportedAsset, bounds_of
from lantern.assets.textures import Texture
from lantern.kernel.memory import address
from lantern.light.environment import SamplingGrid, environment_row, open_ground_irradiance, sampling_grid
from lantern.scene.document import Camera, Material, Part, Scene, TextureUse
from lantern.scene.framing import picture_axes
from lantern.surface.albedo import albedo_block
from lantern.surface.lookup import MATERIAL
from lantern.surface.textures import BINDING, TEXTURE
from lantern.trace.embree import InstanceTree, MeshTree
from lantern.trace.film import Film
from lantern.trace.layout import CAMERA, MESH, PART, SCENE, SETTINGS

LONGEST_PATH = 64
"""Segments of a path at most. Russian roulette ends nearly all before; light caught inside rough glass needs many."""
LEAST_IOR = 1.001
"""At exactly 1 a boundary bends nothing and its half vector is undefined."""


@dataclass
class CompileCounts:
    """How often each part of a compile ran: tests assert that edits stay cheap."""

    full: int = 0
    mesh_trees: int = 0
    material_rows: int = 0
    part_rows: int = 0
    environment_grids: int = 0


class CompiledScene:
    """Tables and trees of one asset under one light. `update` brings it to another document."""

    def __init__(self, scene: Scene, asset: ImportedAsset | None, environment: np.ndarray | None) -> None:
        self.counts = CompileCounts(full=1)
        self._asset = asset
        self._albedos = albedo_block()
        self._meshes: list[MeshTree] = []
        self._mesh_arrays: list[np.ndarray] = []
        self._mesh_block = self._build_meshes()
        self._textures, self._texels = _texture_tables(asset.textures if asset else [])
        self._settings, self._camera = SETTINGS.zeros(1), CAMERA.zeros(1)
        self._pixels = np.ones((2, 4, 3), np.float32)
        self._grids: dict[bool, SamplingGrid] = {}
        self._irradiance = np.zeros(3)
        self._scene = scene
        self._place_parts(scene)
        self._write_materials(scene)
        self.use_environment(environment)
        self._write_camera(scene.camera)

    def _build_meshes(self) -> np.ndarray:
        meshes = self._asset.meshes if self._asset else []
        rows = np.zeros((max(len(meshes), 1), 5), np.uint64)
        for row, mesh in zip(rows, meshes, strict=False):
            tree = MeshTree(mesh.positions, mesh.indices)
            self._meshes.append(tree)
            arrays = {"positions": tree.positions, "indices": tree.indices, "normals": mesh.normals}
            if mesh.uvs is not None:
                arrays["uvs"] = mesh.uvs
            if mesh.tangents is not None:
                arrays["tangents"] = mesh.tangents
            self._mesh_arrays.extend(arrays.values())
            row[:] = MESH.block(arrays)
            self.counts.mesh_trees += 1
        return rows

    def _place_parts(self, scene: Scene) -> None:
        self.part_keys = list(scene.parts)
        self.tree = InstanceTree()
        self._parts = PART.zeros(len(self.part_keys))
        self._material_numbers = {key: number for number, key in enumerate(scene.materials)}
        for number, part in enumerate(scene.parts.values()):
            self._check_mesh(self.part_keys[number], part)
            self.tree.add(self._meshes[part.mesh], np.array(part.matrix).reshape(3, 4), part.visible)
            self._write_part(number, part)
        self.tree.commit()

    def _check_mesh(self, key: str, part: Part) -> None:
        if part.mesh >= len(self._meshes):
            raise ValueError(
                f"parts/{key}/mesh: the asset has {len(self._meshes)} meshes, there is no number {part.mesh}"
            )

    def _write_part(self, number: int, part: Part) -> None:
        matrix = np.array(part.matrix, np.float64).reshape(3, 4)
        linear = matrix[:, :3]
        determinant = np.linalg.det(linear)
        # Cofactors are the inverse transpose times the determinant; unlike the inverse they exist for flat scales.
        cofactors = np.stack(
            [np.cross(linear[1], linear[2]), np.cross(linear[2], linear[0]), np.cross(linear[0], linear[1])]
        )
        scale = np.abs(cofactors).max() or 1.0
        row = self._parts[number]
        row["matrix"], row["normal_matrix"] = matrix.ravel(), (cofactors / scale).ravel()
        if determinant < 0:
            # A mirrored part keeps its outside: triangle order flips, vertex normals do not.
            row["normal_matrix"] = -row["normal_matrix"]
        row["mesh"], row["material"] = part.mesh, self._material_numbers[part.material]
        self.counts.part_rows += 1

    def _write_materials(self, scene: Scene) -> None:
        self._material_numbers = {key: number for number, key in enumerate(scene.materials)}
        self._materials = MATERIAL.zeros(len(scene.materials))
        self._bindings = BINDING.zeros(5 * max(len(scene.materials), 1))
        for number, material in enumerate(scene.materials.values()):
            self._write_material(number, material)

    def _write_material(self, number: int, material: Material) -> None:
        row = self._materials[number]
        row["base_color"], row["metalness"] = material.base_color, material.base_metalness
        row["edge_color"], row["roughness"] = material.specular_color, material.specular_roughness
        row["ior"] = max(material.specular_ior, LEAST_IOR)
        row["transmission"] = material.transmission_weight
        tint = np.array(material.transmission_color)
        by_depth = material.transmission_depth > 0.0 and not material.geometry_thin_walled
        row["transmission_color"] = 1.0 if by_depth else tint
        # OpenPBR 1.1, section 3.7: the colour is reached at the given depth, σ = -ln T / depth.
        row["absorption"] = -np.log(np.maximum(tint, 1e-6)) / material.transmission_depth if by_depth else 0.0
        row["coat"], row["coat_roughness"] = material.coat_weight, material.coat_roughness
        row["coat_ior"], row["coat_color"] = max(material.coat_ior, LEAST_IOR), material.coat_color
        row["emission"] = np.array(material.emission_color) * material.emission_luminance
        row["normal_scale"], row["thin_walled"] = material.normal_scale, material.geometry_thin_walled
        uses = ("base_color", "metallic_roughness", "normal", "emission", "transmission")
        for slot, name in enumerate(uses):
            use: TextureUse | None = getattr(material, f"{name}_texture")
            place = number * len(uses) + slot
            row[f"{name}_binding"] = place if use else -1
            if use:
                available = len(self._asset.textures) if self._asset else 0
                if use.texture >= available:
                    wrong = f"there is no texture {use.texture}, the asset has {available}"
                    raise ValueError(f"material {material.name!r}: {wrong}")
                self._bindings[place]["texture"], self._bindings[place]["matrix"] = use.texture, use.matrix
        self.counts.material_rows += 1

    def use_environment(self, pixels: np.ndarray | None) -> None:
        """Take another map, (h, w, 3) float32 cleaned, or uniform white for None."""
        self._pixels = np.ones((2, 4, 3), np.float32) if pixels is None else np.ascontiguousarray(pixels, np.float32)
        self._grids.clear()
        self._irradiance = open_ground_irradiance(self._pixels)

    def _write_camera(self, camera: Camera) -> None:
        position, target = np.array(camera.position, np.float64), np.array(camera.target, np.float64)
        backwards = position - target
        backwards /= np.linalg.norm(backwards)
        right, up = picture_axes(backwards)
        row = self._camera
        row["position"], row["right"], row["up"], row["forward"] = position, right, up, -backwards
        row["half_width"] = camera.sensor_width / (2 * camera.focal_length)
        # Aperture diameter is focal length over f-number; half of it, in metres.
        row["lens_radius"] = camera.focal_length * 1e-3 / (2 * camera.f_number) if camera.f_number > 0 else 0.0
        row["focus_distance"] = camera.focus_distance

    def update(self, scene: Scene) -> bool:
        """Bring tables and trees to `scene`; False when it is beyond an update and needs a new compile."""
        before = self._scene
        same_materials = list(scene.materials) == list(before.materials)
        same_parts = list(scene.parts) == list(before.parts) and all(
            scene.parts[key].mesh == before.parts[key].mesh for key in scene.parts
        )
        if scene.asset != before.asset or not same_parts:
            return False
        if not same_materials:
            self._write_materials(scene)
        else:
            for number, (key, material) in enumerate(scene.materials.items()):
                if material != before.materials[key]:
                    self._write_material(number, material)
        moved = False
        for number, (key, part) in enumerate(scene.parts.items()):
            old = before.parts[key]
            if part == old and same_materials:
                continue
            self._write_part(number, part)
            if part.matrix != old.matrix:
                self.tree.place(number, np.array(part.matrix).reshape(3, 4))
                moved = True
            if part.visible != old.visible:
                self.tree.show(number, part.visible)
                moved = True
        if moved:
            self.tree.commit()
        if scene.camera != before.camera:
            self._write_camera(scene.camera)
        self._scene = scene
        return True

    def _grid(self, upper_only: bool) -> SamplingGrid:
        if upper_only not in self._grids:
            self._grids[upper_only] = sampling_grid(self._pixels, upper_only)
            self.counts.environment_grids += 1
        return self._grids[upper_only]

    def block(self, film: Film, control: np.ndarray, samples: int, seed: int, transparent: bool) -> "Bound":
        """Everything a pass needs to bring `film` to `samples` samples; `transparent` leaves the backdrop black."""
        scene, settings = self._scene, self._settings
        grid = self._grid(scene.ground.enabled)
        light = scene.environment
        environment = environment_row(self._pixels, grid, light.rotation, light.intensity)
        settings["width"], settings["height"] = film.width, film.height
        settings["target_samples"], settings["seed"], settings["depth"] = samples, seed, LONGEST_PATH
        settings["camera_sees_environment"] = scene.backdrop.kind == "environment" and not transparent
        settings["backdrop"] = (0.0, 0.0, 0.0) if transparent else scene.backdrop.color
        settings["ground"], settings["ground_height"] = scene.ground.enabled, scene.ground.height
        settings["ground_reflectance"] = scene.ground.reflectance
        settings["open_irradiance"] = self._irradiance * light.intensity
        self._camera["half_height"] = self._camera["half_width"] * film.height / film.width
        self._camera["pixel"] = self._camera["half_width"] * 2 / film.width
        arrays = {
            "settings": settings.copy(),
            "camera": self._camera.copy(),
            "parts": self._parts,
            "meshes": self._mesh_block,
            "materials": self._materials,
            "textures": self._textures,
            "bindings": self._bindings,
            "texels": self._texels,
            "albedos": self._albedos,
            "environment": environment,
            "environment_pixels": self._pixels,
            "environment_choices": grid.choices,
            "environment_densities": grid.densities,
            "environment_edges": grid.edges,
            "film": film.rows,
            "control": control,
        }
        return Bound(SCENE.block(arrays), arrays, self.tree)

    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """Bounds [m] of the visible parts; ±infinity when there are none."""
        visible = [part for part in self._scene.parts.values() if part.visible]
        return bounds_of(self._asset.meshes if self._asset else [], visible)


@dataclass(frozen=True)
class Bound:
    """A block of addresses together with what it points to, so that nothing is freed during a pass."""

    row: np.ndarray
    arrays: dict[str, np.ndarray]
    tree: InstanceTree


def _texture_tables(textures: list[Texture]) -> tuple[np.ndarray, np.ndarray]:
    """(rows of TEXTURE, one uint32 blob); an image that several textures share is stored once."""
    rows = TEXTURE.zeros(len(textures))
    offsets: dict[int, int] = {}
    blobs: list[np.ndarray] = []
    end = 0
    for row, texture in zip(rows, textures, strict=False):
        image = id(texture.texels)
        if image not in offsets:
            offsets[image] = end
            blobs.append(np.ascontiguousarray(texture.texels).view(np.uint32).ravel())
            end += blobs[-1].size
        row["offset"] = offsets[image]
        row["height"], row["width"] = texture.texels.shape[:2]
        row["wrap_u"], row["wrap_v"] = texture.wrap_u, texture.wrap_v
    texels = np.concatenate(blobs) if blobs else np.zeros(1, np.uint32)
    assert address(texels)
    return rows, texels
