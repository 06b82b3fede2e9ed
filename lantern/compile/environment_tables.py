"""The environment of a compiled scene: a map with its cards, graded light, a sky or even light, as kernels read it.

In: the document, a map, images. Out: pixels, sampling grids, what they give on open ground. Called by
`compile.compiled`.
"""

from collections import OrderedDict
from collections.abc import Callable, Mapping

import numpy as np

from lantern.light.appearance import blurred, coloured, graded_map, stretched
from lantern.light.cards import luminance_of, paint, rows_for, shown_cards, with_rows
from lantern.light.daylight import sky_map
from lantern.light.environment import (
    SamplingGrid,
    environment_row,
    open_ground_irradiance,
    sampling_grid,
    stored_pixels,
    turning,
)
from lantern.light.prefilter import prefiltered
from lantern.scene.document import Scene
from lantern.scene.lit import environment_intensity

KEPT_BYTES = 384 << 20
"""Memory for the tables of environments that were shown before: to go back to one costs nothing."""
Images = Mapping[str, np.ndarray]
"""Linear (h, w, 3) float32 by the SHA-256 of their files."""


def turn_of(scene: Scene) -> np.ndarray:
    """(3, 3) from the world to the map; a sky is given by compass, and stands as it is."""
    if scene.sky.enabled:
        return np.eye(3)
    return turning(scene.environment.rotation, scene.environment.tilt, scene.environment.mirrored)


class EnvironmentTables:
    """What is all around; grids and the blurred map are made when they are first wanted."""

    def __init__(self, scene: Scene, pixels: np.ndarray | None, images: Images | None = None) -> None:
        """`pixels` (h, w, 3) float32 cleaned, or None without a map; a sky stands in for them."""
        own, gloss = scene.environment.blur, scene.environment.reflection_blur
        self._pixels = _painted(scene, pixels, own, images or {})
        self._stored, self._factor = stored_pixels(self._pixels)
        self._reflected = self._pixels
        self._reflected_stored, self._reflected_factor = self._stored, self._factor
        self.gloss_sees_other = gloss is not None and gloss != own and not scene.sky.enabled
        """Whether gloss sees the map blurred by another amount than it lights by."""
        if self.gloss_sees_other:
            self._reflected = _painted(scene, pixels, gloss or 0.0, images or {})
            self._reflected_stored, self._reflected_factor = stored_pixels(self._reflected)
        self._grids: dict[bytes, SamplingGrid] = {}
        self._prefiltered: np.ndarray | None = None
        self._irradiance: dict[float, np.ndarray] = {}
        self.mean_luminance = luminance_of(self._pixels)

    @property
    def bytes(self) -> int:
        """Memory that the pixels take, as they are and as kernels read them."""
        own = self._reflected.nbytes + self._reflected_stored.nbytes if self.gloss_sees_other else 0
        return self._pixels.nbytes + self._stored.nbytes + own

    @property
    def grids_made(self) -> int:
        """How many sampling grids were made so far."""
        return len(self._grids)

    @property
    def pixels(self) -> np.ndarray:
        """(h, w, 3) float32 [cd/m²] of intensity 1, unturned, with its cards."""
        return self._pixels

    def irradiance(self, scene: Scene) -> np.ndarray:
        """(3,) lx of the map of intensity 1 on open ground, as the document turns it."""
        turn = turn_of(scene)
        tilt = float(turn[1, 1])
        if tilt not in self._irradiance:
            self._irradiance[tilt] = open_ground_irradiance(self._pixels, turn)
        return self._irradiance[tilt]

    def _grid(self, upper_only: bool, turn: np.ndarray) -> SamplingGrid:
        # Which cells lie below the ground does not change while a map is turned about the upright axis.
        key = turn[:, 1].tobytes() if upper_only else b""
        if key not in self._grids:
            self._grids[key] = sampling_grid(self._pixels, upper_only, turn)
        return self._grids[key]

    def blurred(self) -> np.ndarray:
        """The map blurred by rough mirrors, for the draft."""
        if self._prefiltered is None:
            self._prefiltered = prefiltered(self._reflected)
        return self._prefiltered

    def arrays(self, scene: Scene) -> dict[str, np.ndarray | int]:
        """What the scene block names of the environment."""
        turn = turn_of(scene)
        grid = self._grid(scene.ground.enabled, turn)
        intensity = environment_intensity(scene)
        return {
            "environment": environment_row(self._pixels, grid, turn, intensity, self._factor),
            "reflected": environment_row(self._reflected, None, turn, intensity, self._reflected_factor),
            "reflected_pixels": self._reflected_stored,
            "environment_pixels": self._stored,
            "environment_rows": grid.row_steps,
            "environment_cells": grid.cell_steps,
            "environment_guides": grid.guides,
            "environment_pdfs": grid.pdfs,
            "environment_edges": grid.edges,
        }

    def behind(self, scene: Scene) -> tuple[np.ndarray, np.ndarray]:
        """(ENVIRONMENT row, stored pixels) of the same map as a blurred or brighter backdrop."""
        pixels = blurred(self._pixels, scene.backdrop.blur)
        stored, factor = stored_pixels(pixels)
        intensity = environment_intensity(scene) * 2.0**scene.backdrop.exposure
        return environment_row(pixels, None, turn_of(scene), intensity, factor), stored


def _painted(scene: Scene, pixels: np.ndarray | None, blur: float, images: Images) -> np.ndarray:
    """The map blurred by some degrees, with its cards."""
    bare = _bare(scene, pixels, blur)
    if cards := shown_cards(scene.environment):
        bare = with_rows(bare, rows_for(cards))
        paint(bare, cards, images)
    return bare


def _bare(scene: Scene, pixels: np.ndarray | None, blur: float) -> np.ndarray:
    """The map before any card lies on it."""
    environment = scene.environment
    if scene.sky.enabled:
        return coloured(sky_map(scene.sky), environment)
    if pixels is None:
        pixels = np.ones((2, 4, 3), np.float32) if environment.graded is None else graded_map(environment.graded)
    elif environment.contrast is not None:
        pixels = stretched(pixels, environment.contrast)
    return blurred(coloured(pixels, environment), blur)


def appearance(scene: Scene) -> tuple[object, ...]:
    """Everything that the pixels of an environment depend on but its map's own."""
    environment = scene.environment
    placed = {"rotation": 0.0, "tilt": 0.0, "mirrored": False, "intensity": 1.0, "grounded": None}
    stood_in_for = {"map": None, "graded": None} if scene.sky.enabled else {}
    painted = environment.model_copy(update=placed | stood_in_for)
    return painted.model_dump_json(), scene.sky if scene.sky.enabled else None


class KnownEnvironments:
    """Tables of the environments that were shown last, within KEPT_BYTES."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[object, ...], EnvironmentTables] = OrderedDict()

    def of(self, scene: Scene, origin: object, make: Callable[[], EnvironmentTables]) -> EnvironmentTables:
        """The tables of a document's environment; `origin` stands for the pixels that it is made of."""
        key = (origin, *appearance(scene))
        if key not in self._kept:
            self._kept[key] = make()
        self._kept.move_to_end(key)
        while len(self._kept) > 1 and sum(tables.bytes for tables in self._kept.values()) > KEPT_BYTES:
            self._kept.popitem(last=False)
        return self._kept[key]
