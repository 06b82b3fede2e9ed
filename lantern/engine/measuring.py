"""What the surface at a point of the picture makes of light: in even white light, and in the light that is there.

In: an open engine, a camera, a point of its picture. Out: linear RGB, or None where there is nothing to measure. Called
by the render host. The film is not touched, and the scene is as before.
"""

import numpy as np

from lantern.compile.view import Way
from lantern.engine.engine import Engine
from lantern.scene.document import Camera

SAMPLES = 1024
"""Directions that light comes from, or paths, where something is measured."""
_DARK = 1e-9
"""cd/m² of a white surface: less is no light to measure by."""


def reflectance(engine: Engine, camera: Camera, shape: float, x: float, y: float) -> tuple[float, ...] | None:
    """Share [0, 1] of even white light that the surface sends to a camera; point and `shape` as `Engine.pick`."""
    if _part_at(engine, camera, shape, x, y) is None:
        return None
    pixel, _ = engine.looked_at(camera, shape, x, y, Way.REFLECTANCE, SAMPLES)
    return tuple(float(v) for v in pixel.row["radiance"][0] / SAMPLES)


def radiance_factor(engine: Engine, camera: Camera, shape: float, x: float, y: float) -> tuple[float, ...] | None:
    """What the surface sends to a camera over what a perfect matt white in its place would (CIE S 017, 17-24-066).

    In the light of the scene as it is; above 1 in a highlight. None where there is no part, and in the dark.
    """
    if _part_at(engine, camera, shape, x, y) is None:
        return None
    own, white = luminance_along(engine, camera, shape, x, y), white_along(engine, camera, shape, x, y)
    return None if white is None or white.min() <= _DARK else tuple(float(v) for v in own / white)


def white_along(engine: Engine, camera: Camera, shape: float, x: float, y: float) -> np.ndarray | None:
    """(3,) cd/m² that a perfect matt white would send in the place of what is there; None where nothing is."""
    if engine.pick(camera, shape, x, y) is None:
        return None
    pixel, _ = engine.looked_at(camera, shape, x, y, Way.ILLUMINANCE, SAMPLES)
    return np.asarray(pixel.row["radiance"][0] / SAMPLES)


def _part_at(engine: Engine, camera: Camera, shape: float, x: float, y: float) -> str | None:
    picked = engine.pick(camera, shape, x, y)
    return None if picked is None else picked.part


def luminance_along(engine: Engine, camera: Camera, shape: float, x: float, y: float) -> np.ndarray:
    """(3,) cd/m² that come along an exact ray."""
    pixel, _ = engine.looked_at(camera, shape, x, y, Way.PROOF, SAMPLES)
    return np.asarray(pixel.row["radiance"][0] / SAMPLES)
