"""The compiled scene: what the kernels read, kept in step with the document at the least cost.

In: a `Scene`, an imported asset, an environment map, profiles. Out: a block of addresses and a tree. Called by the
engine. A colour changes one row of a table; a placement one instance; nothing rebuilds a mesh but a new mesh.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np

from lantern.assets.gltf import ImportedAsset, bounds_of
from lantern.assets.mesh import box_corners
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
from lantern.light.prefilter import prefiltered
from lantern.light.profiles import Profile
from lantern.motion.poses import is_open
from lantern.scene.document import Camera, Part, Scene
from lantern.surface.albedo import albedo_block
from lantern.surface.textures import TEXTURE
from lantern.trace.camera_rows import camera_rows
from lantern.trace.embree import InstanceTree
from lantern.trace.film import Film, OnePixel
from lantern.trace.geometry import Geometry, ray_mask
from lantern.trace.layout import SCENE, SETTINGS
from lantern.trace.light_rows import LightRows, build_light_rows, signature
from lantern.trace.material_rows import MaterialRows
from lantern.trace.view import View, Way

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
    probes: int = 0
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
        self._textures, self._texels = _texture_tables(asset.textures if asset else [])
        self._settings = SETTINGS.zeros(1)
        self._profiles = dict(profiles or {})
        self._grids: dict[bool, SamplingGrid] = {}
        self._scene = scene
        self._boxes = [box_corners(mesh.positions) for mesh in asset.meshes] if asset else []
        self._write_lights(scene)
        self._build_geometry(scene)
        self._write_materials(scene)
        self._map = environment
        self._take_environment(scene)
        self._probe(scene)

    def _build_geometry(self, scene: Scene) -> None:
        self._geometry = Geometry(scene, self._asset.meshes if self._asset else [], self._lights)
        self.counts.mesh_trees += len(self._geometry.meshes.trees)
        self.counts.part_rows += self._geometry.rows_written

    @property
    def part_keys(self) -> list[str]:
        """Keys of the parts by their numbers in the film."""
        return self._geometry.keys

    @property
    def tree(self) -> InstanceTree:
        """The tree that rays are traced through."""
        return self._geometry.tree

    def _probe(self, scene: Scene) -> None:
        """Learn where local lights are hidden, so that few rays are aimed at them from there."""
        self._ground_arrival = 1.0
        if self._lights.emitters.local:
            film = Film(1, 1)
            bound = self.block(film, np.zeros(2, np.int32), 1, 0, False, View(scene.camera))
            self._ground_arrival = self._geometry.probe(scene, bound.row, *self.rough_bounds())
            self.counts.probes += 1

    def _write_materials(self, scene: Scene) -> None:
        self._materials = MaterialRows(len(scene.materials), len(self._asset.textures) if self._asset else 0)
        for number, material in enumerate(scene.materials.values()):
            self._materials.write(number, material)
            self.counts.material_rows += 1

    def _write_lights(self, scene: Scene, before: LightRows | None = None) -> None:
        asset = self._asset
        meshes, textures = (asset.meshes, asset.textures) if asset else ([], [])
        self._lights: LightRows = build_light_rows(scene, meshes, textures, self._profiles, before)
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
        self._prefiltered: np.ndarray | None = None
        self._irradiance = open_ground_irradiance(pixels)
        rows = np.sin((np.arange(pixels.shape[0]) + 0.5) / pixels.shape[0] * np.pi)
        self._mean_luminance = float((pixels.mean(axis=1) @ LUMINANCE) @ rows / rows.sum())

    def update(self, scene: Scene) -> bool:
        """Bring tables and trees to `scene`; False when it is beyond an update and needs a new compile."""
        before = self._scene
        same_materials = list(scene.materials) == list(before.materials)
        same_parts = list(scene.parts) == list(before.parts) and all(
            scene.parts[key].mesh == before.parts[key].mesh for key in scene.parts
        )
        if scene.asset != before.asset or not same_parts:
            return False
        if scene.shutter != before.shutter and self._geometry.deforms():
            return False
        relit = signature(scene) != self._light_signature
        if relit:
            self._write_lights(scene, self._lights)
        if not same_materials:
            self._write_materials(scene)
        else:
            for number, (key, material) in enumerate(scene.materials.items()):
                if material != before.materials[key]:
                    self._materials.write(number, material)
                    self.counts.material_rows += 1
        if relit:
            self._geometry.relight(self._lights)
        moved = self._update_parts(scene, renumbered=not same_materials)
        if scene.sky != before.sky:
            self._take_environment(scene)
        self._scene = scene
        if relit or moved or not same_materials:
            self._probe(scene)
        return True

    def _update_parts(self, scene: Scene, *, renumbered: bool) -> bool:
        """Bring rows and instances to the document; True when something in the tree has changed."""
        before, geometry = self._scene, self._geometry
        materials = {key: number for number, key in enumerate(scene.materials)}
        changed = False
        for number, (key, part) in enumerate(scene.parts.items()):
            old = before.parts[key]
            same_shutter = not part.keys or scene.shutter == before.shutter
            if part == old and same_shutter and not renumbered:
                continue
            changed |= geometry.place(number, part, scene.shutter)
            geometry.write_part(number, part, materials[part.material], self._lights)
            self.counts.part_rows += 1
            if ray_mask(part) != ray_mask(old):
                geometry.tree.show(number, ray_mask(part))
                changed = True
        if changed:
            geometry.commit()
        return changed

    def _grid(self, upper_only: bool) -> SamplingGrid:
        if upper_only not in self._grids:
            self._grids[upper_only] = sampling_grid(self._pixels, upper_only)
            self.counts.environment_grids += 1
        return self._grids[upper_only]

    def _write_settings(
        self, film: Film | OnePixel, samples: int, seed: int, transparent: bool, view: View
    ) -> np.ndarray:
        """One SETTINGS row for a pass."""
        scene = self._scene
        settings, emitters = self._settings.copy(), self._lights.emitters
        settings["width"], settings["height"] = film.width, film.height
        settings["target_samples"], settings["first_sample"] = samples, min(film.next_sample, samples)
        settings["seed"], settings["depth"] = seed, LONGEST_PATH
        settings["camera_sees_environment"] = scene.backdrop.kind == "environment" and not transparent
        settings["backdrop"] = (0.0, 0.0, 0.0) if transparent else scene.backdrop.color
        settings["ground"], settings["ground_height"] = scene.ground.enabled, scene.ground.height
        settings["ground_reflectance"] = scene.ground.reflectance
        settings["ground_reflection"] = scene.ground.reflection
        settings["ground_roughness"] = scene.ground.reflection_roughness
        intensity = scene.environment.intensity
        settings["open_irradiance"] = self._irradiance * intensity + emitters.ground_irradiance
        settings["moves"] = self._geometry.moves or (bool(view.camera.keys) and is_open(scene.shutter))
        x, y, width, height = film.region
        settings["region_x"], settings["region_y"] = x, y
        settings["region_width"], settings["region_height"] = width, height
        if not view.follows_paths:
            settings["way"] = view.number
            near, far, reach = self._extent(view.camera)
            settings["near"], settings["far"], settings["reach"] = near, far, reach
        settings["ground_arrives"] = self._ground_arrival
        settings["local_lights"], settings["shaped_lights"] = emitters.local, len(emitters.shapes)
        settings["distant_first"], settings["distant_lights"] = emitters.local, emitters.distant
        from_sky = np.pi * self._mean_luminance * intensity
        total = from_sky + emitters.distant_illuminance
        settings["far_irradiance"] = total
        settings["environment_chance"] = from_sky / total if total > 0 else 1.0
        settings["opacity"] = bool(self._materials.materials["lets_through"].any())
        rendering = scene.rendering
        settings["caustic_alpha"] = rendering.caustic_roughness**2 if rendering.caustics == "filtered" else 0.0
        settings["limit"] = rendering.sample_limit
        haze = scene.haze
        settings["haze"], settings["haze_extinction"] = haze.enabled, 1.0 / haze.visibility
        settings["haze_albedo"], settings["haze_forward"] = haze.color, haze.anisotropy
        settings["haze_low"], settings["haze_high"] = haze.low, haze.high
        return settings

    def _extent(self, camera: Camera) -> tuple[float, float, float]:
        """(nearest, farthest) depth [m] of the visible parts, and the reach of what occludes there."""
        low, high = self.rough_bounds()
        if low[0] > high[0]:
            return 0.0, 1.0, 1.0
        forward = np.subtract(camera.target, camera.position)
        forward /= np.linalg.norm(forward)
        corners = np.array([(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        depths = (corners - camera.position) @ forward
        size = float(np.linalg.norm(high - low))
        return max(float(depths.min()), 0.0), max(float(depths.max()), 1e-6), max(size / 4, 1e-6)

    def _prefiltered_map(self) -> np.ndarray:
        if self._prefiltered is None:
            self._prefiltered = prefiltered(self._pixels)
        return self._prefiltered

    def block(
        self, film: Film | OnePixel, control: np.ndarray, samples: int, seed: int, transparent: bool, view: View
    ) -> "Bound":
        """Everything a pass needs to bring the region of `film` to `samples` samples of a view.

        `transparent` leaves the backdrop black.
        """
        scene = self._scene
        grid = self._grid(scene.ground.enabled)
        light = scene.environment
        settings = self._write_settings(film, samples, seed, transparent, view)
        first = int(settings["first_sample"][0])
        camera, aperture = camera_rows(view.camera, scene.shutter, film.width, film.height)
        materials = self._materials.clay() if view.way is Way.CLAY else self._materials.materials
        emitters = self._lights.emitters
        # The sky is given by compass; the map may be turned.
        rotation = 0.0 if scene.sky.enabled else light.rotation
        arrays: dict[str, np.ndarray | int] = {
            "settings": settings,
            "camera": camera,
            "aperture": aperture,
            "parts": self._geometry.rows,
            "poses": self._geometry.pose_rows,
            "arrivals": self._geometry.arrivals,
            "meshes": self._geometry.meshes.rows,
            "materials": materials,
            "films": self._materials.films,
            "textures": self._textures,
            "bindings": self._materials.bindings,
            "texels": self._texels,
            "albedos": self._albedos,
            "environment": environment_row(self._pixels, grid, rotation, light.intensity, self._stored_factor),
            "environment_pixels": self._stored,
            "environment_rows": grid.row_steps,
            "environment_cells": grid.cell_steps,
            "environment_guides": grid.guides,
            "environment_densities": grid.densities,
            "environment_edges": grid.edges,
            "prefiltered": self._prefiltered_map() if view.way is Way.DRAFT else 0,
            "lights": emitters.lights,
            "light_nodes": emitters.nodes,
            "light_profiles": self._lights.profiles,
            "light_shares": emitters.shares,
            "triangle_lights": emitters.triangle_lights,
            "shape_owners": self._lights.owners,
            "shape_tree": self._lights.tree.handle if self._lights.tree else 0,
            "points": sample_points(first, max(samples - first, 1), seed),
            "mask": self._mask,
            "film": film.address,
            "layers": film.layer_rows if film.layer_rows is not None else 0,
            "control": control,
        }
        return Bound(SCENE.block(arrays), (arrays, film, self._lights), self.tree)

    def bounds(self, keys: Collection[str] | None = None) -> tuple[np.ndarray, np.ndarray]:
        """Bounds [m] of the visible parts, or of those with the given keys; ±infinity when there are none."""
        return bounds_of([mesh.positions for mesh in self._asset.meshes] if self._asset else [], self._parts(keys))

    def rough_bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """Like `bounds` of the visible parts, but of the boxes of their meshes: as cheap for millions of triangles."""
        return bounds_of(self._boxes, self._parts(None))

    def _parts(self, keys: Collection[str] | None) -> list[Part]:
        parts = self._scene.parts.items()
        return [part for key, part in parts if (part.visible if keys is None else key in keys)]

    @property
    def triangles(self) -> tuple[int, int]:
        """(triangles of the meshes, triangles of the parts that stand in the scene)."""
        meshes = self._asset.meshes if self._asset else []
        counts = [len(mesh.indices) for mesh in meshes]
        return sum(counts), sum(counts[part.mesh] for part in self._scene.parts.values())


@dataclass(frozen=True)
class Bound:
    """A block of addresses together with what it points to, so that nothing is freed during a pass."""

    row: np.ndarray
    kept: object
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
