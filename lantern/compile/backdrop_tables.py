"""What the camera sees behind everything in the place of the environment, as kernels read it.

In: the document, images, the shape of the frame. Out: a row of ENVIRONMENT with its pixels, how it is looked up, and
which share of the frame it fills. Called by `compile.compiled`.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from lantern.compile.environment_tables import EnvironmentTables, Images
from lantern.light.appearance import blurred
from lantern.light.environment import environment_row, stored_pixels, turning
from lantern.rays.layout import BY_DIRECTION, IN_THE_FRAME, NO_PICTURE
from lantern.scene.document import Scene
from lantern.scene.lit import environment_intensity
from lantern.scene.surroundings import Backdrop

GRADED_SIDE = 256
"""Rows and columns of a graded backdrop."""
_EVEN = np.ones((1, 1, 3), np.float32)


@dataclass(frozen=True, eq=False)
class BackdropTables:
    """How the backdrop is looked up, and in what."""

    lookup: int = NO_PICTURE
    row: np.ndarray = field(default_factory=lambda: environment_row(_EVEN, None, np.eye(3), 1.0, 1.0))
    stored: np.ndarray = field(default_factory=lambda: stored_pixels(_EVEN)[0])
    ratio: float = 1.0
    """Width over height of what is in the frame."""

    def fit(self, backdrop: Backdrop, frame_ratio: float) -> tuple[float, float]:
        """Picture widths and heights that the frame spans."""
        if backdrop.kind != "photograph" or backdrop.fit == "stretch":
            return 1.0, 1.0
        wide = frame_ratio / self.ratio
        if (backdrop.fit == "cover") == (wide > 1.0):
            return 1.0, 1.0 / wide
        return wide, 1.0


def backdrop_key(scene: Scene) -> tuple[object, ...]:
    """Everything that the tables of a backdrop depend on but the pixels of files and of the environment."""
    environment = scene.environment
    turned = environment.rotation, environment.tilt, environment.mirrored, scene.sky.enabled
    return scene.backdrop, turned, environment_intensity(scene)


def backdrop_tables(scene: Scene, environment: EnvironmentTables, images: Images) -> BackdropTables:
    """Those of a document's backdrop; a plain one where its file cannot be had."""
    backdrop = scene.backdrop
    brightness = 2.0**backdrop.exposure
    if backdrop.kind == "environment" and (backdrop.blur > 0 or backdrop.exposure != 0.0):
        return BackdropTables(BY_DIRECTION, *environment.behind(scene))
    if backdrop.kind == "gradient":
        pixels = graded_backdrop(backdrop)
        stored, factor = stored_pixels(pixels)
        own = 2.0**backdrop.color_exposure
        return BackdropTables(IN_THE_FRAME, environment_row(pixels, None, np.eye(3), own, factor), stored)
    image = None if backdrop.file is None else images.get(backdrop.file.sha256)
    if image is None or backdrop.kind not in ("map", "photograph"):
        return BackdropTables()
    if backdrop.kind == "map":
        pixels = blurred(image, backdrop.blur)
        stored, factor = stored_pixels(pixels)
        turn = turning(backdrop.rotation, 0.0, mirrored=False)
        return BackdropTables(BY_DIRECTION, environment_row(pixels, None, turn, brightness, factor), stored)
    pixels = softened(image, backdrop.blur)
    stored, factor = stored_pixels(pixels)
    row = environment_row(pixels, None, np.eye(3), brightness, factor)
    return BackdropTables(IN_THE_FRAME, row, stored, pixels.shape[1] / pixels.shape[0])


def plain_backdrop(backdrop: Backdrop) -> tuple[float, float, float]:
    """RGB [cd/m²] of a plain backdrop, and of what lies beside a photograph."""
    r, g, b = (v * 2.0**backdrop.color_exposure for v in backdrop.color)
    return r, g, b


def graded_backdrop(backdrop: Backdrop) -> np.ndarray:
    """(GRADED_SIDE, GRADED_SIDE, 3) from the upper colour down to the backdrop's, half way at its middle.

    The glow is a round light of the lower colour about the middle of the frame, a third of it wide.
    """
    down = (np.arange(GRADED_SIDE) + 0.5) / GRADED_SIDE
    middle = min(max(backdrop.middle, 0.02), 0.98)
    t = np.where(down < middle, down / middle * 0.5, 0.5 + (down - middle) / (1 - middle) * 0.5)
    t = (t * t * (3 - 2 * t))[:, None, None]
    pixels = np.array(backdrop.upper) * (1 - t) + np.array(backdrop.color) * t
    pixels = np.repeat(pixels, GRADED_SIDE, axis=1)
    across = ((np.arange(GRADED_SIDE) + 0.5) / GRADED_SIDE - 0.5)[None, :]
    square = across**2 + (down[:, None] - 0.5) ** 2
    glow = backdrop.glow * np.exp(-square / (2 * 0.18**2))
    return np.asarray(pixels + glow[..., None] * np.array(backdrop.color), np.float32)


def softened(pixels: np.ndarray, degrees: float) -> np.ndarray:
    """A photograph blurred as one that spans 40° across, by a Gaussian of this standard deviation."""
    if degrees <= 0:
        return pixels
    height, width = pixels.shape[:2]
    sigma = degrees / 40.0 * width
    room = min(math.ceil(3 * sigma), max(height, width))
    padded = np.pad(pixels, ((room, room), (room, room), (0, 0)), mode="edge")
    for axis in (0, 1):
        count = padded.shape[axis]
        falls = np.exp(-0.5 * (2 * math.pi * np.fft.rfftfreq(count) * sigma) ** 2)
        spectrum = np.fft.rfft(padded, axis=axis) * falls.reshape([-1 if k == axis else 1 for k in range(3)])
        padded = np.fft.irfft(spectrum, count, axis=axis)
    return np.ascontiguousarray(np.maximum(padded[room : room + height, room : room + width], 0.0), np.float32)
