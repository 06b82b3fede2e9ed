"""What lies under a point of the picture.

In: the one pixel that was looked up there. Out: a part, a place, a normal. Called by the engine.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from lantern.compile.one_pixel import OnePixel
from lantern.scene.document import Camera
from lantern.scene.framing import point_at_depth


@dataclass(frozen=True)
class Picked:
    """What lies under a point of the picture."""

    part: str | None  # None for the ground
    position: tuple[float, float, float]  # m
    normal: tuple[float, ...]  # unit, world
    depth: float  # m along the view


def picked(pixel: OnePixel, sharp: Camera, shape: float, part_keys: Sequence[str]) -> Picked | None:
    """What a pixel shows that a camera, stopped down, has seen; None for nothing. `shape` is width over height."""
    if pixel.row["depth_hits"][0] == 0:
        return None
    depth, number = float(pixel.row["depth"][0]), int(pixel.row["part"][0])
    column, row, _, _ = pixel.region
    across, down = (column + 0.5) / pixel.width, (row + 0.5) / pixel.height
    return Picked(
        part=part_keys[number] if number >= 0 else None,
        position=point_at_depth(sharp, shape, across, down, depth),
        normal=tuple(float(v) for v in pixel.row["normal"][0]),
        depth=depth,
    )
