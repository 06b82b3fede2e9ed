"""The environment of a compiled scene: a map, the sky or even light, as kernels read it.

In: the document and a map. Out: pixels, sampling grids, what they give on open ground. Called by `compile.compiled`.
"""

import numpy as np

from lantern.color import LUMINANCE
from lantern.light.daylight import SunPosition, sky_map
from lantern.light.environment import (
    SamplingGrid,
    environment_row,
    open_ground_irradiance,
    sampling_grid,
    stored_pixels,
)
from lantern.light.prefilter import prefiltered
from lantern.scene.document import Scene


class EnvironmentTables:
    """What is all around; grids and the blurred map are made when they are first wanted."""

    def __init__(self, scene: Scene, pixels: np.ndarray | None) -> None:
        """`pixels` (h, w, 3) float32 cleaned, or None for even white; a sky stands in for them."""
        self._is_sky = scene.sky.enabled
        if self._is_sky:
            place = SunPosition(scene.sky.azimuth, scene.sky.elevation)
            pixels = sky_map(place, scene.sky.turbidity, np.array(scene.sky.ground_albedo))
        elif pixels is None:
            pixels = np.ones((2, 4, 3), np.float32)
        self._pixels = pixels
        self._stored, self._factor = stored_pixels(pixels)
        self._grids: dict[bool, SamplingGrid] = {}
        self._prefiltered: np.ndarray | None = None
        self.irradiance = open_ground_irradiance(pixels)
        rows = np.sin((np.arange(pixels.shape[0]) + 0.5) / pixels.shape[0] * np.pi)
        self.mean_luminance = float((pixels.mean(axis=1) @ LUMINANCE) @ rows / rows.sum())

    @property
    def grids_made(self) -> int:
        """How many sampling grids were made so far."""
        return len(self._grids)

    def _grid(self, upper_only: bool) -> SamplingGrid:
        if upper_only not in self._grids:
            self._grids[upper_only] = sampling_grid(self._pixels, upper_only)
        return self._grids[upper_only]

    def blurred(self) -> np.ndarray:
        """The map blurred by rough mirrors, for the draft."""
        if self._prefiltered is None:
            self._prefiltered = prefiltered(self._pixels)
        return self._prefiltered

    def arrays(self, scene: Scene) -> dict[str, np.ndarray | int]:
        """What the scene block names of the environment."""
        grid = self._grid(scene.ground.enabled)
        # The sky is given by compass; the map may be turned.
        rotation = 0.0 if self._is_sky else scene.environment.rotation
        return {
            "environment": environment_row(self._pixels, grid, rotation, scene.environment.intensity, self._factor),
            "environment_pixels": self._stored,
            "environment_rows": grid.row_steps,
            "environment_cells": grid.cell_steps,
            "environment_guides": grid.guides,
            "environment_pdfs": grid.pdfs,
            "environment_edges": grid.edges,
        }
