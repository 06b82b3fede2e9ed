"""Shapes of the frame: by the ratio of its sides, and sheets of paper.

In: the name of a shape. Out: pixels across and down. Called by the render host. Sheets are those of ISO 216; ratios
those of still and moving pictures.
"""

import math
from typing import Literal, get_args

from lantern.scene.document import Scene
from lantern.scene.making import Made
from lantern.scene.patching import replaced

FrameName = Literal["1:1", "5:4", "4:3", "3:2", "16:10", "16:9", "1.85:1", "2:1", "2.39:1", "A2", "A3", "A4", "A5"]
FRAME_NAMES: tuple[FrameName, ...] = get_args(FrameName)
SHEETS_MM = {"A2": (594, 420), "A3": (420, 297), "A4": (297, 210), "A5": (210, 148)}
"""Sides of sheets, lying."""
LENSES_MM = (12, 14, 16, 18, 21, 24, 28, 35, 40, 50, 58, 65, 75, 85, 100, 135, 180, 200, 300, 400, 600)
"""Focal lengths for a frame 36 mm wide, as lenses are sold."""
DPI = (150, 300)
LARGEST, LEAST = 16384, 16
MM_AN_INCH = 25.4


def frame_pixels(shape: FrameName, pixels: int, *, upright: bool, dpi: int) -> tuple[int, int]:
    """(width, height) of a frame: of about so many pixels in all, or of a sheet at `dpi` dots an inch.

    Raises ValueError when it would have more than 16,384 pixels a side.
    """
    if shape in SHEETS_MM:
        across, down = (round(side / MM_AN_INCH * dpi) for side in SHEETS_MM[shape])
    else:
        ratio = ratio_of(shape)
        across, down = round(math.sqrt(pixels * ratio)), round(math.sqrt(pixels / ratio))
    if upright:
        across, down = down, across
    if max(across, down) > LARGEST:
        raise ValueError(f"{shape} at {dpi} dpi has {across} × {down} pixels; the limit is {LARGEST} a side")
    return max(across, LEAST), max(down, LEAST)


def ratio_of(shape: FrameName) -> float:
    """Width over height."""
    if shape in SHEETS_MM:
        across, down = SHEETS_MM[shape]
        return across / down
    wide, high = shape.split(":")
    return float(wide) / float(high)


def framed(scene: Scene, shape: FrameName, *, upright: bool, dpi: int) -> Made:
    """The patch that gives the frame a shape. Raises ValueError as `frame_pixels`."""
    printed = scene.print
    width, height = frame_pixels(shape, printed.width * printed.height, upright=upright, dpi=dpi)
    patch = [replaced("/print/width", width), replaced("/print/height", height)]
    if shape in SHEETS_MM and printed.dpi != dpi:
        patch.append(replaced("/print/dpi", dpi))
    return Made("", f"Frame {shape}{' upright' if upright else ''}", patch)
