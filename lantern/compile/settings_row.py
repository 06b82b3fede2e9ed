"""The SETTINGS row of a pass: every plain number that kernels read once.

In: the document, the film's frame, a view, and what the other tables say. Out: one row. Called by `compile.compiled`.
"""

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from lantern.compile.backdrop_tables import BackdropTables, plain_backdrop
from lantern.compile.light_rows import LightRows
from lantern.compile.view import View
from lantern.motion.poses import is_open
from lantern.rays.layout import SETTINGS
from lantern.scene.document import Camera, Rendering, Scene
from lantern.scene.lit import environment_intensity
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT

LONGEST_PATH = 128
"""Segments of a path at most. Russian roulette ends nearly all before; light caught inside rough glass needs many."""


class Frame(Protocol):
    """What a pass fills: pixels by the address of the first, and how far they have been sampled."""

    width: int
    height: int
    region: tuple[int, int, int, int]

    @property
    def aov_rows(self) -> np.ndarray | None: ...

    @property
    def group_rows(self) -> np.ndarray | None: ...

    @property
    def next_sample(self) -> int: ...

    @property
    def address(self) -> int: ...


@dataclass(frozen=True)
class Pass:
    """What one pass is asked for."""

    samples: int
    seed: int
    transparent: bool
    view: View


@dataclass(frozen=True)
class Surroundings:
    """What the settings say of the other tables."""

    lights: LightRows
    backdrop: BackdropTables
    irradiance: np.ndarray  # (3,) lx of the map of intensity 1 on open ground
    mean_luminance: float  # cd/m² of that map over the sphere
    ground_arrival: float
    low: np.ndarray  # (3,) m, bounds of the visible parts
    high: np.ndarray
    moves: bool
    apart: bool
    has_holes: bool
    hides: bool


def settings_row(scene: Scene, frame: Frame, wanted: Pass, around: Surroundings) -> np.ndarray:
    """One row of SETTINGS."""
    settings, view = SETTINGS.zeros(1), wanted.view
    _write_frame(settings, frame, wanted)
    settings["groups"] = 0 if frame.group_rows is None else frame.group_rows.shape[1] // 3
    settings["keeps"] = frame.aov_rows is not None or frame.group_rows is not None
    settings["camera_sees_environment"] = scene.backdrop.kind == "environment" and not wanted.transparent
    settings["backdrop"] = (0.0, 0.0, 0.0) if wanted.transparent else plain_backdrop(scene.backdrop)
    if not wanted.transparent:
        settings["backdrop_lookup"] = around.backdrop.lookup
        settings["backdrop_span"] = around.backdrop.fit(scene.backdrop, frame.width / frame.height)
    settings["grounded"] = (scene.environment.grounded or 0.0) if _shows_ground(scene) else 0.0
    settings["ground"], settings["ground_height"] = scene.ground.enabled, scene.ground.height
    settings["ground_reflectance"] = scene.ground.reflectance
    settings["ground_reflection"] = scene.ground.reflection
    settings["ground_roughness"] = scene.ground.reflection_roughness
    settings["ground_arrives"] = around.ground_arrival
    settings["moves"] = around.moves or (bool(view.camera.keys) and is_open(scene.shutter))
    settings["apart"] = around.apart or around.lights.apart
    settings["opacity"], settings["hides"] = around.has_holes, around.hides
    settings["estimator"], settings["white"] = view.estimator, -1
    if not view.follows_paths:
        settings["way"] = view.number
        settings["near"], settings["far"], settings["reach"] = _extent(view.camera, around.low, around.high)
    _write_lights(settings, scene, around)
    _write_rendering(settings, scene.rendering)
    _write_haze(settings, scene)
    return settings


def _shows_ground(scene: Scene) -> bool:
    """Whether the environment can be projected on the ground: both are there, and are seen."""
    return scene.ground.enabled and scene.backdrop.kind == "environment" and not scene.sky.enabled


def _write_frame(settings: np.ndarray, frame: Frame, wanted: Pass) -> None:
    settings["width"], settings["height"] = frame.width, frame.height
    settings["target_samples"] = wanted.samples
    settings["first_sample"] = min(frame.next_sample, wanted.samples)
    settings["seed"], settings["depth"] = wanted.seed, LONGEST_PATH
    x, y, width, height = frame.region
    settings["region_x"], settings["region_y"] = x, y
    settings["region_width"], settings["region_height"] = width, height


def _write_lights(settings: np.ndarray, scene: Scene, around: Surroundings) -> None:
    emitters, intensity = around.lights.emitters, environment_intensity(scene)
    settings["open_irradiance"] = around.irradiance * intensity + emitters.ground_irradiance
    settings["local_lights"], settings["shaped_lights"] = emitters.local, len(emitters.shapes)
    settings["distant_first"], settings["distant_lights"] = emitters.local, emitters.distant
    from_sky = np.pi * around.mean_luminance * intensity
    total = from_sky + emitters.distant_illuminance
    settings["far_irradiance"] = total
    settings["environment_chance"] = from_sky / total if total > 0 else 1.0


def _write_rendering(settings: np.ndarray, rendering: Rendering) -> None:
    settings["caustic_alpha"] = rendering.caustic_roughness**2 if rendering.caustics == "filtered" else 0.0
    settings["limit"] = rendering.sample_limit or 0.0


def _write_haze(settings: np.ndarray, scene: Scene) -> None:
    haze = scene.haze
    settings["haze"], settings["haze_extinction"] = haze.enabled, FREE_PATHS_OF_SIGHT / haze.sight
    settings["haze_albedo"], settings["haze_forward"] = haze.color, haze.anisotropy
    if haze.falls_off is not None:
        settings["haze_thins"] = 1.0 / haze.falls_off
        settings["haze_from"] = haze.box.low[1] if haze.box is not None else scene.ground.height
    # A box without room stands for everywhere.
    if haze.box is not None:
        settings["haze_low"], settings["haze_high"] = haze.box.low, haze.box.high


def _extent(camera: Camera, low: np.ndarray, high: np.ndarray) -> tuple[float, float, float]:
    """(nearest, farthest) depth [m] of a box seen by a camera, and the reach of what occludes there."""
    if low[0] > high[0]:
        return 0.0, 1.0, 1.0
    forward = np.subtract(camera.target, camera.position)
    forward /= np.linalg.norm(forward)
    corners = np.array([(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    depths = (corners - camera.position) @ forward
    size = float(np.linalg.norm(high - low))
    return max(float(depths.min()), 0.0), max(float(depths.max()), 1e-6), max(size / 4, 1e-6)
