"""What a look needs to know besides the light of the picture: the lens, files, and which parts are seen where."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from lantern.picture.look.aperture import Aperture
from lantern.scene.document import Camera


@dataclass(frozen=True)
class Surround:
    """Of one picture. A file that is not there leaves out what it is for."""

    aperture: Aperture = field(default_factory=Aperture)
    half_diagonal: float = 0.3
    """Tangent of the angle from the axis to the corner of the frame."""
    images: Mapping[str, np.ndarray] = field(default_factory=dict)
    """(h, w, channels) of apertures by the SHA-256 of their files."""
    files: Mapping[str, Path] = field(default_factory=dict)
    """Tables and configurations by the SHA-256 of their files."""
    depth: np.ndarray | None = None
    """(h, w) float32 m along the view, of any size of the same shape; without it everything is far."""
    stops: float = 0.0
    """By which the camera's shutter and ISO expose the picture, besides the exposure of the look."""
    cover: np.ndarray | None = None
    """(h, w) float32 share of each pixel that does not show the backdrop, of any size of the same shape; only where the
    backdrop is kept out of the grade."""
    clean: bool = True
    """Whether noise has been removed: a lone bright pixel is light then, and no sample that was lucky."""
    mattes: Mapping[tuple[str, ...], np.ndarray] = field(default_factory=dict)
    """(h, w) float32 share of each pixel that shows certain parts, by their keys; of any size of the same shape."""


def lens_of(camera: Camera, shape: float) -> tuple[Aperture, float]:
    """The aperture of a camera, and the tangent from its axis to the corner; `shape` is width over height."""
    aperture = Aperture(camera.blades, camera.blade_roundness, camera.blade_rotation)
    if camera.projection == "orthographic":
        return aperture, 0.0
    half_width = camera.sensor_width / 2 / camera.focal_length
    return aperture, half_width * math.hypot(1.0, 1.0 / shape)
