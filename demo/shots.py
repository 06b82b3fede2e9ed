"""Shots of the demo: the whole lantern, its chimney through a long lens, from above.

In: the document and the box of its asset. Out: shots by their keys. Called by `project`.
"""

import math

import numpy as np

from lantern.scene.document import Camera, Scene, Shot
from lantern.scene.framing import fit_camera


def demo_shots(scene: Scene, low: np.ndarray, high: np.ndarray) -> dict[str, Shot]:
    """Three ways to stand before a lantern in the box from `low` to `high` [m]."""
    shape = scene.print.width / scene.print.height
    height = float(high[1] - low[1])

    def part(bottom: float, top: float) -> tuple[np.ndarray, np.ndarray]:
        bottoms, tops = low[1] + bottom * height, low[1] + top * height
        return np.array([low[0], bottoms, low[2]]), np.array([high[0], tops, high[2]])

    close = fit_camera(
        scene.camera.model_copy(update={"focal_length": 135.0, "f_number": 4.0}),
        *part(0.3, 0.78), shape, keep_direction=True, share=0.95,
    )  # fmt: skip
    above = fit_camera(_from(52.0, 38.0, 60.0), low, high, shape, keep_direction=True, share=0.8)
    size = {"width": scene.print.width, "height": scene.print.height}
    cameras = {"whole": scene.camera, "chimney": close, "above": above}
    names = {"whole": "Whole lantern", "chimney": "Chimney", "above": "From above"}
    return {key: Shot.model_validate({"name": names[key], "camera": one, **size}) for key, one in cameras.items()}


def _from(azimuth: float, elevation: float, focal_length: float) -> Camera:
    """A camera that looks at the origin from a direction [degrees]."""
    a, e = math.radians(azimuth), math.radians(elevation)
    position = (math.sin(a) * math.cos(e), math.sin(e), math.cos(a) * math.cos(e))
    return Camera(position=position, target=(0.0, 0.0, 0.0), focal_length=focal_length)
