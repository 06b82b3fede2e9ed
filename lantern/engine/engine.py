"""The façade: open a scene, apply edits, run passes, develop pictures. Everything outside the core calls this."""

import math
import time
from collections.abc import Collection, Mapping
from dataclasses import asdict, dataclass, field, replace

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.reading import import_asset
from lantern.assets.textures import Texture
from lantern.compile.compiled import Around, Bound, CompileCounts, CompiledScene, other_file
from lantern.compile.one_pixel import OnePixel
from lantern.compile.settings_row import Frame
from lantern.compile.stock import Foreseen
from lantern.compile.view import View, Way
from lantern.engine.differing import shows_otherwise
from lantern.engine.dissolving_maps import DissolvingMaps, is_of_other_map
from lantern.engine.finishing import LookFiles, surround_of
from lantern.engine.light_images import LightImages, profile_files, read_profiles
from lantern.engine.own_images import OwnImages, Resolver
from lantern.engine.picking import Picked, picked
from lantern.film.film import Film, Means, Rows
from lantern.film.renderer import Kernel, RayCounts, Renderer
from lantern.motion.dissolving import Second, second_of
from lantern.motion.moving import Mover
from lantern.motion.relit import environments_of
from lantern.picture.denoise import GiveWay, Quality
from lantern.picture.develop import Developed, develop
from lantern.picture.look.surround import Surround
from lantern.preview.looking import look_tiles
from lantern.scene.balancing import factors, is_balanced
from lantern.scene.document import Camera, Scene
from lantern.scene.look import Look
from lantern.transport.passes import trace_tiles
from lantern.transport.probes import probe


def _lighting(scene: Scene) -> tuple[object, ...]:
    """Sections of a document, besides its lights, that say which images its light is made with."""
    return *(environment.cards for environment in environments_of(scene)), scene.backdrop


FIRST_LOOK = 16
"""Samples after which the noise of a film is judged for the first time."""


def _kernel_for(view: View) -> Kernel:
    return trace_tiles if view.follows_paths else look_tiles


def next_look(samples: int) -> int:
    """The next count of samples at which blocks of pixels may settle: FIRST_LOOK, doubled again and again."""
    look = FIRST_LOOK
    while look <= samples:
        look *= 2
    return look


LARGEST_SEED = 2**31 - 1
PICK_WIDTH = 16384
"""Pixels across the frame that a point of the picture is looked up in."""
AREA_WIDTH = 768
"""Pixels across the frame that a rectangle of the picture is looked up in."""


@dataclass
class Timings:
    """Seconds spent by stage."""

    importing: float = 0.0
    compiling: float = 0.0
    tracing: float = 0.0
    developing: float = 0.0


@dataclass
class Change:
    """What an edit did to the compiled scene."""

    restarts: bool  # samples already taken no longer show the document
    recompiled: bool
    problems: list[str] = field(default_factory=list)


class Engine:
    """One scene on this machine. Not for several threads at once, except `cancel`."""

    def __init__(self, threads: int | None = None, *, final: bool = False) -> None:
        """`final` shows meshes as fine as the print has them, not the proof."""
        self._final = final
        self._renderer = Renderer(threads) if threads else Renderer()
        self._scene = self._shown = Scene()
        self._mover = Mover()
        self._second: Second | None = None
        self._compiled: CompiledScene | None = None
        self._asset: ImportedAsset | None = None
        self._own, self._lit, self._dissolving = OwnImages(), LightImages(), DissolvingMaps()
        self.look_files = LookFiles()
        self.timings = Timings()

    @property
    def scene(self) -> Scene:
        """The document that is open."""
        return self._scene

    @property
    def shown(self) -> Scene:
        """The document as it is at its moment, which the next pass shows."""
        return self._shown

    @property
    def compiled(self) -> CompiledScene:
        if self._compiled is None:
            raise RuntimeError("no scene is open: call `open` first")
        return self._compiled

    @property
    def is_open(self) -> bool:
        """Whether there is a scene."""
        return self._compiled is not None

    @property
    def compile_counts(self) -> CompileCounts:
        """How often each part of a compile ran since the last full one."""
        return self.compiled.counts

    @property
    def renderer(self) -> Renderer:
        return self._renderer

    @property
    def triangles(self) -> int:
        """Triangles of all parts, instances counted each time."""
        return self._compiled.triangles[1] if self._compiled else 0

    @property
    def moves(self) -> bool:
        """Whether anything in the scene is elsewhere, or of another shape, at another moment."""
        return (
            any(move.enabled for move in self._scene.motion.moves.values())
            or bool(self._shown.camera.keys)
            or any(part.keys for part in self._shown.parts.values())
            or any(mesh.shapes is not None for mesh in (self._asset.meshes if self._asset else []))
        )

    @property
    def asset(self) -> ImportedAsset | None:
        """What was read of the document's asset."""
        return self._asset

    @property
    def textures(self) -> list[Texture]:
        """Those of the asset."""
        return self._asset.textures if self._asset else []

    @property
    def pictures(self) -> Mapping[str, np.ndarray]:
        """The images of one's own that the document looks up, by the SHA-256 of their files."""
        return self._own.texels

    def open(
        self,
        scene: Scene,
        resolve: Resolver,
        asset: ImportedAsset | None = None,
        pictures: Mapping[str, np.ndarray] | None = None,
    ) -> list[str]:
        """Compile a scene whole and return problems found in its files.

        `asset` saves a second import, `pictures` what another engine has decoded. Raises AssetError or ImageError when
        a file cannot be used.
        """
        start = time.perf_counter()
        document, scene = scene, self._mover.moved(scene)
        self._own.know(pictures or {})
        if asset is None and scene.asset is not None:
            file = scene.asset.file
            asset = import_asset(resolve(file), name=file.name, sha256=file.sha256, clip=scene.asset.clip)
        imported = time.perf_counter()
        missing = self._lit.bring(scene, resolve)[1]
        pixels, problems = self._dissolving.map_of(scene, self._lit, resolve)
        profiles, unread = read_profiles(scene, resolve)
        problems += unread + self._own.bring(scene, resolve) + missing
        problems += self.look_files.bring(scene.look, resolve)
        self._compiled = CompiledScene(
            scene, asset, pixels, profiles, self._own.texels, lights=self._lit.shown, final=self._final
        )
        self._scene, self._shown, self._asset = document, scene, asset
        self._second = second_of(document)
        self.timings.importing += imported - start
        self.timings.compiling += time.perf_counter() - imported
        return problems + (asset.problems if asset else []) + self._compiled.problems

    def apply(self, scene: Scene, resolve: Resolver) -> Change:
        """Bring the compiled scene to another document at the least cost."""
        if scene == self._scene:
            return Change(restarts=False, recompiled=False)
        document, scene, before = scene, self._mover.moved(scene), self._shown
        known = self.compiled.problems
        problems = self.look_files.bring(scene.look, resolve) if scene.look is not before.look else []
        if scene.materials is not before.materials or scene.decals is not before.decals:
            problems += self._own.follow(before, scene, resolve)
            self.compiled.use_pictures(self._own.texels)
        if scene.lights is not before.lights or _lighting(before) != _lighting(scene):
            has_others, unread = self._lit.bring(scene, resolve)
            problems += unread
            if has_others:
                self.compiled.use_light_images(self._lit.shown)
        around = None
        if is_of_other_map(before, scene):
            # Read before anything is changed: a file that cannot be had leaves all as it was.
            pixels, unclean = self._dissolving.map_of(scene, self._lit, resolve)
            problems += unclean
            around = Around(pixels)
        if other_file(before, scene) or not self.compiled.update(scene, around):
            same_asset = None if other_file(before, scene) else self._asset
            return Change(restarts=True, recompiled=True, problems=self.open(document, resolve, same_asset))
        if profile_files(scene) != profile_files(before):
            profiles, unread = read_profiles(scene, resolve)
            problems += unread
            self.compiled.use_profiles(profiles)
            self.compiled.update(scene)
        self._scene, self._shown, second = document, scene, self._second
        self._second = second_of(document)
        problems += [problem for problem in self.compiled.problems if problem not in known]
        restarts = shows_otherwise(before, scene) or self._second != second
        return Change(restarts=restarts, recompiled=False, problems=problems)

    def trace(
        self,
        film: Film,
        samples: int,
        *,
        noise: float | None = None,
        seed: int = 0,
        transparent: bool = False,
        view: View | None = None,
    ) -> bool:
        """Bring every pixel of the region of `film` to `samples` samples; False when `cancel` came first.

        `view` is what it shows, the document's camera and the proof unless given.

        With a `noise` target (relative error, more than 0) blocks of pixels end before that once they have reached
        it. They are looked at when samples have doubled, never in between, so that a film is the same however its
        passes are split; the blocks of a film with a plan end where that says. The film stays valid either way and may
        be resumed.
        """
        start = time.perf_counter()
        view = view or View(self._shown.camera)
        whole = True
        while whole and not film.is_done(samples):
            step = min(samples, next_look(film.samples)) if noise is not None else samples
            if film.plan is not None:
                step = min(samples, film.next_planned(film.samples))
            seen = view
            if self._second is not None and view.camera is self._shown.camera and view.follows_paths:
                seen = replace(view, camera=self._second.camera) if self._second.has(film.next_sample) else view
                step = min(step, self._second.alike(film.next_sample))
            bound = self._bound(film, step, seed, transparent, seen)
            whole = self._renderer.run(_kernel_for(view), bound.row, bound.tree.handle)
            if whole:
                film.passed(step)
                if film.plan is not None:
                    film.end_planned(step)
            if whole and noise is not None and step == next_look(step - 1):
                film.settle(noise)
        self.timings.tracing += time.perf_counter() - start
        return whole

    def _bound(self, frame: Frame, samples: int, seed: int, transparent: bool, view: View) -> Bound:
        """What a pass reads and writes; what probes know of the lights is brought up to date first."""
        if not 0 <= seed <= LARGEST_SEED:
            raise ValueError(f"a seed must lie within 0 and {LARGEST_SEED}, not {seed}")
        probe(self.compiled)
        return self.compiled.block(frame, self._renderer.control, samples, seed, transparent, view)

    def film_for(self, width: int, height: int, *, aovs: bool = False, groups: bool = False) -> Film:
        """A film for the open document: one that tells light groups apart where they are balanced, or asked for."""
        told = len(self.compiled.light_groups) if aovs or groups or is_balanced(self._shown) else 0
        return Film(width, height, aovs=aovs, groups=told)

    def factors(self) -> list[tuple[float, float, float]]:
        """RGB factors of the light groups of the document, by their numbers."""
        return factors(self._shown, self.compiled.light_groups)

    def radiance(self, film: Film) -> np.ndarray:
        """Mean radiance of a film (h, w, 3), its light groups balanced as the document says."""
        if film.group_rows is None or not is_balanced(self._shown):
            return film.radiance()
        return film.balanced(self.factors())

    def means(self, film: Film) -> Means:
        """Means of a film, its light groups balanced as the document says."""
        means = film.means()
        if film.group_rows is None or not is_balanced(self._shown):
            return means
        return replace(means, radiance=film.balanced(self.factors()))

    def surround(
        self,
        film: Film | None,
        *,
        clean: bool,
        camera: Camera | None = None,
        own: tuple[Look, LookFiles] | None = None,
    ) -> Surround:
        """What a look needs to know of a film; `clean` is whether its noise was removed.

        `camera` is who it is seen by, and `own` the look with its files: the document's unless given.
        """
        look, files = own or (self._shown.look, self.look_files)
        shape = film.width / film.height if film else self._shown.print.width / self._shown.print.height
        seen_by = camera or self._shown.camera
        keys = self.compiled.part_keys
        return surround_of(self._shown, look, files, seen_by, shape, film, keys, clean=clean)

    def develop(self, film: Film, *, denoise: Quality | None, transparent: bool = False) -> Developed:
        """The picture of a film, scene-linear."""
        picture = self.develop_unless(lambda: False, film, denoise=denoise, transparent=transparent)
        assert picture is not None
        return picture

    def develop_unless(
        self,
        give_way: GiveWay,
        film: Film,
        *,
        denoise: Quality | None,
        transparent: bool = False,
        urgent: bool = False,
    ) -> Developed | None:
        """The picture of a film, or None when `give_way`, asked again and again while it is denoised, says so.

        `urgent` is a picture that somebody waits for.
        """
        start = time.perf_counter()
        picture: Developed | None
        if denoise is None and not transparent:
            radiance = self.radiance(film)
            picture = Developed(radiance, np.ones(radiance.shape[:2], np.float32))
        else:

            def guides(rows: Rows) -> tuple[np.ndarray, np.ndarray]:
                means = film.means(rows)  # of a large film never all at once
                return means.albedo, means.normal

            picture = develop(
                self.radiance(film),
                film.alpha(),
                guides,
                denoise=denoise,
                transparent=transparent,
                give_way=give_way,
                urgent=urgent,
            )
        self.timings.developing += time.perf_counter() - start
        return picture

    def cancel(self) -> None:
        """Make a running pass give way; safe from any thread."""
        self._renderer.cancel()

    def must_give_way(self) -> bool:
        """Whether `cancel` was called since `ready`."""
        return self._renderer.cancelled

    def ready(self) -> None:
        """Allow passes again after `cancel`."""
        self._renderer.ready()

    def ray_counts(self) -> RayCounts:
        """Rays traced since the engine was made."""
        return self._renderer.counts()

    def pick(self, camera: Camera, shape: float, x: float, y: float) -> Picked | None:
        """What a camera sees at a point of its picture, (0, 0) upper left to (1, 1) lower right; None for nothing.

        `shape` is width over height of the picture. The lens is stopped down, so that the ray is exact.
        """
        pixel, sharp = self.looked_at(camera, shape, x, y, Way.NORMALS, 1)
        return picked(pixel, sharp, shape, self.compiled.part_keys)

    def looked_at(
        self, camera: Camera, shape: float, x: float, y: float, way: Way, samples: int
    ) -> tuple[OnePixel, Camera]:
        """The pixel at a point of a picture so fine that its filter does not matter, and the camera stopped down.

        Its sums are over so many samples of a way of looking.
        """
        width, height = PICK_WIDTH, max(round(PICK_WIDTH / shape), 1)
        sharp = camera.model_copy(update={"f_number": None})
        column, row = min(max(int(x * width), 0), width - 1), min(max(int(y * height), 0), height - 1)
        pixel = OnePixel(width, height, column, row)
        view = View(sharp, way)
        bound = self._bound(pixel, samples, 0, False, view)
        self._renderer.ready()
        while not self._renderer.run(_kernel_for(view), bound.row, bound.tree.handle):
            self._renderer.ready()  # cancelled for the sake of something else; one pixel is worth finishing
        return pixel, sharp

    def parts_within(self, camera: Camera, shape: float, edges: tuple[float, float, float, float]) -> tuple[str, ...]:
        """Keys of the parts that a camera sees within a rectangle of its picture, in the order of their numbers.

        `edges` are two opposite corners (x, y, x, y) as shares of the picture, (0, 0) upper left; `shape` is width
        over height of the picture. Looked up anew, at a fixed fineness, whatever is shown.
        """
        film = Film(AREA_WIDTH, max(round(AREA_WIDTH / shape), 1))
        (left, right), (top, bottom) = sorted(edges[::2]), sorted(edges[1::2])
        x, y = int(left * film.width), int(top * film.height)
        width, height = math.ceil(right * film.width) - x, math.ceil(bottom * film.height) - y
        if width < 1 or height < 1:
            return ()
        film.select((x, y, width, height))
        self._renderer.ready()
        while not self.trace(film, 1, view=View(camera, way=Way.PARTS)):
            self._renderer.ready()  # as above: what was asked for is answered whole
        seen, keys = np.unique(film.parts()[y : y + height, x : x + width]), self.compiled.part_keys
        return tuple(keys[number] for number in seen if 0 <= number < len(keys))

    def foreseen(self, keys: Collection[str]) -> Foreseen:
        """How many triangles some parts have and will have."""
        return self.compiled.foreseen(keys)

    def statistics(self) -> dict[str, object]:
        """Counters as plain data."""
        counts = self.ray_counts()
        return {"rays": asdict(counts), "seconds": asdict(self.timings), "triangles": self.triangles}

    def close(self) -> None:
        """End the threads."""
        self._renderer.close()
