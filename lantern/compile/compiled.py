"""The compiled scene: what the kernels read, kept in step with the document at the least cost.

In: a `Scene`, an imported asset, an environment map, profiles. Out: a block of addresses and a tree. Called by the
engine. A colour changes one row of a table; a placement one instance; nothing rebuilds a mesh but a new mesh.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lantern.assets.faults import Fault
from lantern.assets.imported import ImportedAsset
from lantern.compile.backdrop_tables import backdrop_key, backdrop_tables
from lantern.compile.camera_rows import camera_rows
from lantern.compile.checks import check
from lantern.compile.clusters import ProbeSites, probe_sites
from lantern.compile.environment_tables import EnvironmentTables, Images, KnownEnvironments, appearance
from lantern.compile.geometry import Geometry
from lantern.compile.light_rows import LightRows, build_light_rows, signature
from lantern.compile.one_pixel import OnePixel
from lantern.compile.settings_row import Frame, Pass, Surroundings, settings_row
from lantern.compile.stock import Foreseen, Stock, same_shapes
from lantern.compile.view import View, Way
from lantern.compile.wearing import Wearing
from lantern.kernel.points import blue_noise_mask, sample_points
from lantern.light.profiles import Profile
from lantern.motion.bounds import Bounds, bounds_of_poses, joined, mesh_points
from lantern.motion.focus import focused
from lantern.pattern.images import decodings
from lantern.pattern.tables import SHADING
from lantern.rays.embree import InstanceTree
from lantern.rays.layout import SCENE
from lantern.scene.decals import Content
from lantern.scene.document import Scene
from lantern.scene.lights import profile_of
from lantern.surface.albedo import albedo_block


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


@dataclass(frozen=True, eq=False)
class Around:
    """A map all around, (h, w, 3) float32 cleaned; uniform white for None."""

    pixels: np.ndarray | None


def other_file(before: Scene, after: Scene) -> bool:
    """Whether two documents are of two files of assets, or of two clips of one."""
    files = [(scene.asset.file, scene.asset.clip) if scene.asset else None for scene in (before, after)]
    return files[0] != files[1]


class CompiledScene:
    """Tables and trees of one asset under one light. `update` brings it to another document."""

    def __init__(
        self,
        scene: Scene,
        asset: ImportedAsset | None,
        environment: np.ndarray | None,
        profiles: Mapping[str, Profile] | None = None,
        pictures: Mapping[str, np.ndarray] | None = None,
        *,
        lights: Images | None = None,
        final: bool = False,
    ) -> None:
        """`pictures` are images of one's own by the SHA-256 of their files, `lights` those of the light, linear.

        `final` makes meshes as fine as the print has them, not the proof.
        """
        meshes = asset.meshes if asset else []
        self._textures = asset.textures if asset else []
        self._own_meshes = len(meshes)
        check(scene, self._own_meshes, len(self._textures))
        self._stock = Stock(meshes, scene, self._textures, final=final)
        self.counts = CompileCounts(full=1)
        self._albedos, self._mask, self._decodings = albedo_block(), blue_noise_mask(), decodings()
        self._wearing = Wearing(scene, self._textures, pictures or {})
        self._profiles, self._light_images = dict(profiles or {}), dict(lights or {})
        self._scene = scene
        self._is_stale = False
        self._write_lights(scene)
        self._place_parts(scene)
        self._wearing.write(scene, self._geometry, self._stock)
        self.counts.material_rows = self._wearing.written
        self._known = KnownEnvironments()
        self._appearance: tuple[object, ...] | None = None
        self._backdrop_key: tuple[object, ...] | None = None
        self._around = Around(environment)
        self._take_environment(scene)
        self._forget_arrivals()

    @property
    def part_keys(self) -> list[str]:
        """Keys of the parts by their numbers in the film."""
        return self._geometry.keys

    @property
    def material_keys(self) -> list[str]:
        """Keys of the materials by their numbers in the film; one that parts wear with decals has several."""
        return [dress.material for dress in self._wearing.worn]

    @property
    def problems(self) -> list[str]:
        """What of the document's wishes could not be had."""
        near = self._wearing.pictures.near.problems
        return [*near, *self._stock.problems, *self._geometry.strewn.problems, *self._geometry.edges.problems]

    @property
    def tree(self) -> InstanceTree:
        """The tree that rays are traced through."""
        return self._geometry.tree

    @property
    def environment(self) -> EnvironmentTables:
        """What is all around."""
        return self._environment

    @property
    def light_groups(self) -> tuple[str, ...]:
        """Names of the light groups by their numbers in the AOVs."""
        return self._lights.groups

    def _place_parts(self, scene: Scene, before: Geometry | None = None) -> None:
        self._geometry = Geometry(scene, self._stock, self._lights, self._wearing.worn, before)
        self.counts.mesh_trees += self._geometry.trees_built
        self.counts.part_rows += len(scene.parts)

    def _write_lights(self, scene: Scene, before: LightRows | None = None) -> None:
        textures, shining = self._wearing.pictures.textures, self._wearing.shining
        self._lights = build_light_rows(
            scene, self._stock, textures, self._profiles, self._light_images, shining, before
        )
        self._light_signature = signature(scene)
        self.counts.light_tables += 1

    def profile_of(self, light: str) -> Profile | None:
        """The measured distribution of a light of the document, None for one without or whose file cannot be used."""
        file = profile_of(self._scene.lights[light]) if light in self._scene.lights else None
        return None if file is None else self._profiles.get(file.sha256)

    def use_profiles(self, profiles: Mapping[str, Profile]) -> None:
        """Take other IES profiles, by the SHA-256 of their files."""
        self._profiles = dict(profiles)
        self._light_signature = ()

    def use_pictures(self, pictures: Mapping[str, np.ndarray]) -> None:
        """Take the images of one's own that the next document asks for, by the SHA-256 of their files."""
        self._wearing.pictures.bring(pictures)

    def use_light_images(self, images: Images) -> None:
        """Take the images that lights, cards and backdrop of the next document show, by the SHA-256 of their files."""
        self._light_images = dict(images)
        self._light_signature, self._appearance, self._backdrop_key = (), None, None

    def use_environment(self, pixels: np.ndarray | None) -> None:
        """Take another map, (h, w, 3) float32 cleaned, or uniform white for None. A sky stands in for it."""
        self._around = Around(pixels)
        self._take_environment(self._scene)

    def environment_under(self, scene: Scene) -> EnvironmentTables:
        """What is all around in a document that differs by its light, with the same map."""
        pixels = None if scene.sky.enabled else self._around.pixels
        # A map of a file is known by that; one that was given without is itself alone.
        given = self._around if pixels is not None and scene.environment.map is None else None
        origin = given, tuple(sorted(self._light_images))
        return self._known.of(scene, origin, lambda: EnvironmentTables(scene, pixels, self._light_images))

    def _take_environment(self, scene: Scene) -> None:
        self._environment = self.environment_under(scene)
        self._appearance = appearance(scene)
        self._take_backdrop(scene)

    def _take_backdrop(self, scene: Scene) -> None:
        self._backdrop = backdrop_tables(scene, self._environment, self._light_images)
        self._backdrop_key = backdrop_key(scene)

    def _environment_arrays(self) -> dict[str, np.ndarray | int]:
        made = self._environment.grids_made
        arrays = self._environment.arrays(self._scene)
        self.counts.environment_grids += self._environment.grids_made - made
        return arrays

    def update(self, scene: Scene, around: "Around | None" = None) -> bool:
        """Bring tables and trees to `scene`; False when it is beyond an update and needs a new compile.

        `around` is its map, where that is another one.
        Raises SceneError for a document that the asset cannot serve; then nothing has changed.
        """
        before = self._scene
        if other_file(before, scene) or self._is_stale:
            return False
        check(scene, self._own_meshes, len(self._textures), before)
        if around is not None:
            self._around, self._appearance = around, None
        # Should a step fail halfway all the same, what is there belongs to neither document.
        self._is_stale = True
        self._follow(before, scene)
        self._is_stale = False
        return True

    def _follow(self, before: Scene, scene: Scene) -> None:
        same = same_shapes(before, scene)
        refitted = same and not self._stock.fits(scene)
        if refitted or not same:
            self._stock.bring(scene)
        reshaped = refitted or not same or (scene.shutter != before.shutter and self._geometry.deforms())
        relit = refitted or signature(scene) != self._light_signature
        if relit:
            self._write_lights(scene, self._lights)
        renumbered = self._wearing.renumber(before, scene)
        if reshaped:
            self._place_parts(scene, self._geometry)
            moved = True
        else:
            if relit:
                self._geometry.relight(self._lights)
            written, moved = self._geometry.update(
                before, scene, self._lights, self._wearing.worn, renumbered=renumbered
            )
            self.counts.part_rows += written
        if renumbered:
            self._wearing.write(scene, self._geometry, self._stock)
        else:
            self._wearing.follow(before, scene, self._geometry, self._stock)
        self.counts.material_rows = self._wearing.written
        lit_alike = scene.environment is before.environment and scene.sky is before.sky
        if self._appearance is None or not (lit_alike or appearance(scene) == self._appearance):
            self._take_environment(scene)
        elif backdrop_key(scene) != self._backdrop_key:
            self._take_backdrop(scene)
        self._scene = scene
        if relit or moved or renumbered:
            self._forget_arrivals()

    def _forget_arrivals(self) -> None:
        """Lights or parts have changed: until it is probed anew, local lights are taken to arrive everywhere."""
        self.probes_wanted = self._lights.emitters.local > 0
        self._arrivals = np.ones(max(self._geometry.clusters.count, 1), np.float32)
        self._ground_arrival = 1.0

    def probe_sites(self) -> ProbeSites:
        """Where the arrival of local lights is to be probed."""
        copies = self._geometry.copy_counts()
        shown = [n for n, part in enumerate(self._scene.parts.values()) if part.visible and copies[n]]
        low, high = self.rough_bounds()
        numbers = np.array(shown, np.int64)
        return probe_sites(self._geometry.clusters, numbers, copies, low, high, self._scene.ground.height)

    def take_arrivals(self, shares: np.ndarray, on_ground: float) -> None:
        """Take what probes found: the share [0, 1] of the local lights' light for each cluster, and on the ground."""
        self._arrivals[: len(shares)], self._ground_arrival = shares, on_ground
        self.probes_wanted = False
        self.counts.probes += 1

    def bare_block(self) -> "Bound":
        """A block for kernels that ask for places rather than pixels."""
        return self.block(OnePixel(1, 1, 0, 0), np.zeros(2, np.int32), 1, 0, False, View(self._scene.camera))

    def _surroundings(self) -> Surroundings:
        low, high = self.rough_bounds()
        return Surroundings(
            self._lights,
            self._backdrop,
            self._environment.irradiance(self._scene),
            self._environment.mean_luminance,
            self._ground_arrival,
            low,
            high,
            self._geometry.moves,
            self._geometry.apart,
            self._wearing.rows.has_holes,
            self._wearing.rows.hides,
        )

    def block(
        self, frame: Frame, control: np.ndarray, samples: int, seed: int, transparent: bool, view: View
    ) -> "Bound":
        """Everything a pass needs to bring the region of `frame` to `samples` samples of a view.

        `transparent` leaves the backdrop black.
        """
        scene = self._scene
        settings = settings_row(scene, frame, Pass(samples, seed, transparent, view), self._surroundings())
        settings["gloss_sees_other"] = self._environment.gloss_sees_other
        first = int(settings["first_sample"][0])
        camera, aperture = camera_rows(focused(scene, view.camera), scene.shutter, frame.width, frame.height)
        materials = self._wearing.rows.materials
        if view.way is Way.CLAY:
            materials = self._wearing.rows.clay()
        elif view.way is Way.ILLUMINANCE:
            materials, settings["white"] = self._wearing.rows.measuring()
        shading: dict[str, np.ndarray | int] = {
            "materials": materials,
            "images": self._wearing.pictures.rows,
            "bindings": self._wearing.rows.bindings,
            "decodings": self._decodings,
            "albedos": self._albedos,
            "films": self._wearing.rows.films,
            "operations": self._wearing.rows.inputs.operations,
            "placements": self._wearing.rows.inputs.placements,
            "ramps": self._wearing.rows.inputs.ramps,
            "grids": self._wearing.pictures.near.rows,
        }
        emitters = self._lights.emitters
        arrays: dict[str, np.ndarray | int] = {
            "settings": settings,
            "camera": camera,
            "aperture": aperture,
            "parts": self._geometry.rows,
            "poses": self._geometry.pose_rows,
            "arrivals": self._arrivals,
            "meshes": self._geometry.mesh_rows,
            "roundings": self._geometry.edges.rows,
            "shading": SHADING.block(shading),
            "materials": materials,
            "albedos": shading["albedos"],
            "films": shading["films"],
            "prefiltered": self._environment.blurred() if view.way is Way.DRAFT else 0,
            "lights": emitters.lights,
            "light_nodes": emitters.nodes,
            "light_profiles": self._lights.profiles,
            "light_shapings": self._lights.shapings,
            "light_gates": self._lights.gates,
            "backdrop": self._backdrop.row,
            "backdrop_pixels": self._backdrop.stored,
            "light_shares": emitters.shares,
            "triangle_lights": emitters.triangle_lights,
            "shape_owners": self._lights.owners,
            "shape_tree": self._lights.tree.handle if self._lights.tree else 0,
            "points": sample_points(first, max(samples - first, 1), seed),
            "mask": self._mask,
            "film": frame.address,
            "aovs": frame.aov_rows if frame.aov_rows is not None else 0,
            "groups": frame.group_rows if frame.group_rows is not None else 0,
            "control": control,
        } | self._environment_arrays()
        return Bound(SCENE.block(arrays), (arrays, shading, frame, self._lights), self.tree)

    def bounds(self, keys: Collection[str] | None = None) -> Bounds:
        """Bounds [m] of the asset, or of the parts with the given keys, as the shutter sees them.

        The asset is all that is visible, without the set that was built around it and what is strewn, if there is more
        than that. ±infinity when there is nothing.
        """
        if keys is None:
            shown = {key: part for key, part in self._scene.parts.items() if part.visible}
            keys = [key for key, part in shown.items() if part.form is None and part.strewn is None] or list(shown)
        return self._bounds_of(self._placed(set(keys)), mesh_points(self._stock.meshes, self._scene.shutter))

    def part_boxes(self, keys: Collection[str]) -> dict[str, Bounds]:
        """Bounds [m] of single parts, as the shutter sees them."""
        points, wanted = mesh_points(self._stock.meshes, self._scene.shutter), set(keys)
        there = [key for key in self._geometry.keys if key in wanted]
        return {key: self._bounds_of([one], points) for key, one in zip(there, self._placed(wanted), strict=True)}

    def rough_bounds(self) -> Bounds:
        """Like `bounds` of the visible parts, but of the boxes of their meshes: as cheap for millions of triangles."""
        shown = {key for key, part in self._scene.parts.items() if part.visible}
        return bounds_of_poses(self._stock.boxes, ((mesh, poses) for mesh, poses, _ in self._placed(shown)))

    def _bounds_of(self, placed: Collection[tuple[int, np.ndarray, bool]], points: Sequence[np.ndarray]) -> Bounds:
        """Of parts as `_placed` gives them; `points` are those of all meshes."""
        single = [(mesh, poses) for mesh, poses, is_strewn in placed if not is_strewn]
        # There may be so many copies that the boxes around their meshes must do.
        many = [(mesh, poses) for mesh, poses, is_strewn in placed if is_strewn]
        return joined(bounds_of_poses(points, single), bounds_of_poses(self._stock.boxes, many))

    def _placed(self, keys: set[str]) -> list[tuple[int, np.ndarray, bool]]:
        """Of parts with some keys, in their order, the mesh, poses (k, 3, 4), and whether they are strewn."""
        geometry = self._geometry
        found = [number for number, key in enumerate(geometry.keys) if key in keys]
        return [(self._stock.numbers[n], geometry.placed(n).reshape(-1, 3, 4), n in geometry.copies) for n in found]

    def fault_lines(self, kind: Fault) -> np.ndarray:
        """(n, 2, 3) world ends [m] of lines that show the faults of a kind, of all parts that are visible."""
        placed = zip(self._scene.parts.values(), self._geometry.poses, strict=True)
        found = [
            self._stock.fault_lines(part, kind) @ poses[0][:, :3].T + poses[0][:, 3]
            for part, poses in placed
            if part.visible and part.form is None
        ]
        return np.concatenate(found) if found else np.zeros((0, 2, 3))

    def foreseen(self, keys: Collection[str]) -> Foreseen:
        """How many triangles some parts have and will have; of parts that are not there, none."""
        return self._stock.foreseen(self._scene, [key for key in keys if key in self._scene.parts])

    def pose_of(self, key: str) -> np.ndarray:
        """(3, 4) of a part when the shutter opens, from its mesh's space to the scene. Raises KeyError."""
        return self._geometry.poses[self._geometry.numbers[key]][0]

    def shape_of(self, content: Content) -> float | None:
        """Height over width of what is on a decal; None where it cannot be had."""
        number = self._wearing.pictures.of_content(content)
        if number is None:
            return None
        height, width = self._wearing.pictures.texels(number).shape[:2]
        return float(height / width)

    @property
    def triangles(self) -> tuple[int, int]:
        """(triangles of the meshes, triangles of the parts that stand in the scene, each copy counted)."""
        counts = np.array([mesh.triangles for mesh in self._stock.meshes], np.int64)
        return int(counts.sum()), int((counts[self._stock.numbers] * self._geometry.copy_counts()).sum())


@dataclass(frozen=True)
class Bound:
    """A block of addresses together with what it points to, so that nothing is freed during a pass."""

    row: np.ndarray
    kept: object
    tree: InstanceTree
