"""The compiled scene: what the kernels read, kept in step with the document at the least cost.

In: a `Scene`, an imported asset, an environment map, profiles. Out: a block of addresses and a tree. Called by the
engine. A colour changes one row of a table; a placement one instance; nothing rebuilds a mesh but a new mesh.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from lantern.assets.gltf import ImportedAsset, bounds_of
from lantern.assets.textures import Texture
from lantern.kernel.memory import address
from lantern.kernel.points import blue_noise_mask, sample_points
from lantern.light.daylight import LUMINANCE, SunPosition, sky_map
from lantern.light.environment import (
    SamplingGrid,
    environment_row,
    open_ground_irradiance,
    sampling_grid,
    stored_pixels,
)
from lantern.light.profiles import Profile
from lantern.scene.document import Camera, Part, Scene
from lantern.scene.framing import picture_axes
from lantern.surface.albedo import albedo_block
from lantern.surface.textures import TEXTURE
from lantern.trace.embree import InstanceTree, MeshTree
from lantern.trace.film import Film
from lantern.trace.layout import BOUNCE_RAY, CAMERA, CAMERA_RAY, MESH, PART, SCENE, SETTINGS, SHADOW_RAY
from lantern.trace.lens import aperture_table
from lantern.trace.light_rows import LightRows, build_light_rows, signature
from lantern.trace.material_rows import MaterialRows

LONGEST_PATH = 128
"""Segments of a path at most. Russian roulette ends nearly all before; light caught inside rough glass needs many."""


@dataclass
class CompileCounts:
    """How often each part of a compile ran: tests assert that edits stay cheap."""

    full: int = 0
    mesh_trees: int = 0
    material_rows: int = 0
    part_rows: int = 0
    light_tables: int = 0
    environment_grids: int = 0


class CompiledScene:
    """Tables and trees of one asset under one light. `update` brings it to another document."""

    def __init__(
        self,
        scene: Scene,
        asset: ImportedAsset | None,
        environment: np.ndarray | None,
        profiles: Mapping[str, Profile] | None = None,
    ) -> None:
        self.counts = CompileCounts(full=1)
        self._asset = asset
        self._albedos, self._mask = albedo_block(), blue_noise_mask()
        self._meshes: list[MeshTree] = []
        self._mesh_arrays: list[np.ndarray] = []
        self._mesh_block = self._build_meshes()
        self._textures, self._texels = _texture_tables(asset.textures if asset else [])
        self._settings, self._camera = SETTINGS.zeros(1), CAMERA.zeros(1)
        self._profiles = dict(profiles or {})
        self._grids: dict[bool, SamplingGrid] = {}
        self._scene = scene
        self._write_lights(scene)
        self._place_parts(scene)
        self._write_materials(scene)
        self._map = environment
        self._take_environment(scene)
        self._write_camera(scene.camera)

    def _build_meshes(self) -> np.ndarray:
        meshes = self._asset.meshes if self._asset else []
        rows = np.zeros((max(len(meshes), 1), MESH.width), np.uint64)
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
            self.tree.add(self._meshes[part.mesh], np.array(part.matrix).reshape(3, 4), _ray_mask(part))
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
        row["receives_shadow"] = part.receives_shadow
        row["triangle_lights"] = self._lights.emitters.part_triangles.get(number, -1)
        row["links"] = self._lights.part_links[number]
        self.counts.part_rows += 1

    def _write_materials(self, scene: Scene) -> None:
        self._material_numbers = {key: number for number, key in enumerate(scene.materials)}
        self._materials = MaterialRows(len(scene.materials), len(self._asset.textures) if self._asset else 0)
        for number, material in enumerate(scene.materials.values()):
            self._materials.write(number, material)
            self.counts.material_rows += 1

    def _write_lights(self, scene: Scene) -> None:
        asset = self._asset
        self._lights: LightRows = build_light_rows(
            scene, asset.meshes if asset else [], asset.textures if asset else [], self._profiles
        )
        self._light_signature = signature(scene)
        self.counts.light_tables += 1

    @property
    def light_groups(self) -> tuple[str, ...]:
        """Names of the light groups by their numbers in the layers."""
        return self._lights.groups

    def use_profiles(self, profiles: Mapping[str, Profile]) -> None:
        """Take other IES profiles, by the SHA-256 of their files."""
        self._profiles = dict(profiles)
        self._light_signature = ()

    def use_environment(self, pixels: np.ndarray | None) -> None:
        """Take another map, (h, w, 3) float32 cleaned, or uniform white for None. A sky stands in for it."""
        self._map = pixels
        self._take_environment(self._scene)

    def _take_environment(self, scene: Scene) -> None:
        if scene.sky.enabled:
            place = SunPosition(scene.sky.azimuth, scene.sky.elevation)
            pixels = sky_map(place, scene.sky.turbidity, np.array(scene.sky.ground_albedo))
        else:
            pixels = np.ones((2, 4, 3), np.float32) if self._map is None else self._map
        self._stored, self._stored_factor = stored_pixels(pixels)
        self._pixels = pixels
        self._grids.clear()
        self._irradiance = open_ground_irradiance(pixels)
        rows = np.sin((np.arange(pixels.shape[0]) + 0.5) / pixels.shape[0] * np.pi)
        self._mean_luminance = float((pixels.mean(axis=1) @ LUMINANCE) @ rows / rows.sum())

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
        row["shift_x"], row["shift_y"] = camera.shift_x / camera.focal_length, camera.shift_y / camera.focal_length
        row["distortion"], row["bladed"] = camera.distortion, camera.blades >= 3
        self._aperture = aperture_table(max(camera.blades, 3), camera.blade_rotation, camera.blade_roundness)

    def update(self, scene: Scene) -> bool:
        """Bring tables and trees to `scene`; False when it is beyond an update and needs a new compile."""
        before = self._scene
        same_materials = list(scene.materials) == list(before.materials)
        same_parts = list(scene.parts) == list(before.parts) and all(
            scene.parts[key].mesh == before.parts[key].mesh for key in scene.parts
        )
        if scene.asset != before.asset or not same_parts:
            return False
        relit = signature(scene) != self._light_signature
        if relit:
            self._write_lights(scene)
        if not same_materials:
            self._write_materials(scene)
        else:
            for number, (key, material) in enumerate(scene.materials.items()):
                if material != before.materials[key]:
                    self._materials.write(number, material)
                    self.counts.material_rows += 1
        moved = False
        for number, (key, part) in enumerate(scene.parts.items()):
            old = before.parts[key]
            if part == old and same_materials and not relit:
                continue
            self._write_part(number, part)
            if part.matrix != old.matrix:
                self.tree.place(number, np.array(part.matrix).reshape(3, 4))
                moved = True
            if _ray_mask(part) != _ray_mask(old):
                self.tree.show(number, _ray_mask(part))
                moved = True
        if moved:
            self.tree.commit()
        if scene.sky != before.sky:
            self._take_environment(scene)
        if scene.camera != before.camera:
            self._write_camera(scene.camera)
        self._scene = scene
        return True

    def _grid(self, upper_only: bool) -> SamplingGrid:
        if upper_only not in self._grids:
            self._grids[upper_only] = sampling_grid(self._pixels, upper_only)
            self.counts.environment_grids += 1
        return self._grids[upper_only]

    def _write_settings(self, scene: Scene, film: Film, samples: int, seed: int, transparent: bool) -> np.ndarray:
        """One SETTINGS row for a pass."""
        settings, emitters = self._settings.copy(), self._lights.emitters
        settings["width"], settings["height"] = film.width, film.height
        settings["target_samples"], settings["first_sample"] = samples, min(film.next_sample, samples)
        settings["seed"], settings["depth"] = seed, LONGEST_PATH
        settings["camera_sees_environment"] = scene.backdrop.kind == "environment" and not transparent
        settings["backdrop"] = (0.0, 0.0, 0.0) if transparent else scene.backdrop.color
        settings["ground"], settings["ground_height"] = scene.ground.enabled, scene.ground.height
        settings["ground_reflectance"] = scene.ground.reflectance
        intensity = scene.environment.intensity
        settings["open_irradiance"] = self._irradiance * intensity + emitters.ground_irradiance
        settings["local_lights"], settings["shaped_lights"] = emitters.local, len(emitters.shapes)
        settings["distant_first"], settings["distant_lights"] = emitters.local, emitters.distant
        from_sky = np.pi * self._mean_luminance * intensity
        total = from_sky + emitters.distant_illuminance
        settings["far_irradiance"] = total
        settings["environment_chance"] = from_sky / total if total > 0 else 1.0
        settings["opacity"] = bool(self._materials.materials["lets_through"].any())
        rendering = scene.rendering
        settings["caustic_alpha"] = rendering.caustic_roughness**2 if rendering.caustics == "filtered" else 0.0
        haze = scene.haze
        settings["haze"], settings["haze_extinction"] = haze.enabled, 1.0 / haze.visibility
        settings["haze_albedo"], settings["haze_forward"] = haze.color, haze.anisotropy
        settings["haze_low"], settings["haze_high"] = haze.low, haze.high
        return settings

    def block(self, film: Film, control: np.ndarray, samples: int, seed: int, transparent: bool) -> "Bound":
        """Everything a pass needs to bring `film` to `samples` samples; `transparent` leaves the backdrop black."""
        scene = self._scene
        grid = self._grid(scene.ground.enabled)
        light = scene.environment
        intensity = light.intensity * self._stored_factor
        settings = self._write_settings(scene, film, samples, seed, transparent)
        first = int(settings["first_sample"][0])
        self._camera["half_height"] = self._camera["half_width"] * film.height / film.width
        self._camera["pixel"] = self._camera["half_width"] * 2 / film.width
        emitters = self._lights.emitters
        # The sky is given by compass; the map may be turned.
        rotation = 0.0 if scene.sky.enabled else light.rotation
        arrays: dict[str, np.ndarray | int] = {
            "settings": settings,
            "camera": self._camera.copy(),
            "aperture": self._aperture,
            "parts": self._parts,
            "meshes": self._mesh_block,
            "materials": self._materials.materials,
            "films": self._materials.films,
            "textures": self._textures,
            "bindings": self._materials.bindings,
            "texels": self._texels,
            "albedos": self._albedos,
            "environment": environment_row(self._pixels, grid, rotation, intensity),
            "environment_pixels": self._stored,
            "environment_rows": grid.row_steps,
            "environment_cells": grid.cell_steps,
            "environment_guides": grid.guides,
            "environment_densities": grid.densities,
            "environment_edges": grid.edges,
            "lights": emitters.lights,
            "light_nodes": emitters.nodes,
            "light_profiles": self._lights.profiles,
            "triangle_lights": emitters.triangle_lights,
            "shape_owners": self._lights.owners,
            "shape_tree": self._lights.tree.handle if self._lights.tree else 0,
            "points": sample_points(first, max(samples - first, 1), seed),
            "mask": self._mask,
            "film": film.rows,
            "layers": film.layer_rows if film.layer_rows is not None else 0,
            "control": control,
        }
        return Bound(SCENE.block(arrays), (arrays, self._lights), self.tree)

    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """Bounds [m] of the visible parts; ±infinity when there are none."""
        visible = [part for part in self._scene.parts.values() if part.visible]
        return bounds_of(self._asset.meshes if self._asset else [], visible)


@dataclass(frozen=True)
class Bound:
    """A block of addresses together with what it points to, so that nothing is freed during a pass."""

    row: np.ndarray
    kept: object
    tree: InstanceTree


def _ray_mask(part: Part) -> int:
    """Which rays see a part."""
    if not part.visible:
        return 0
    return CAMERA_RAY * part.seen_by_camera | BOUNCE_RAY * part.seen_in_reflections | SHADOW_RAY * part.casts_shadow


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
