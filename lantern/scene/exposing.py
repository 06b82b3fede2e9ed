"""Exposure by shutter, f-number and ISO, as a camera has it, beside exposure by EV.

In: a camera, a document. Out: stops, patches. Called by the look and by the render host. The scale is that of ISO 2720:
a reflected-light meter reads a luminance of K N² / (t S) as the middle of the picture, which is grey of 18 % here.
"""

import math
from typing import Any

from lantern.scene.document import Camera, Scene
from lantern.scene.making import Made
from lantern.scene.patching import replaced

REFLECTED_CONSTANT = 12.5
"""K of ISO 2720, cd·s/(m²·lx): of a reflected-light meter."""
GREY = 0.18
SHARP_F_NUMBER = 8.0
"""By which a camera exposes for which all is sharp."""
LONGEST, SHORTEST = 3600.0, 1e-6
"""Exposure times [s] that a document takes."""


def camera_stops(camera: Camera) -> float:
    """By how many stops a camera's shutter, f-number and ISO brighten the picture; 0 where exposure is by EV alone."""
    if camera.exposure_time is None:
        return 0.0
    return math.log2(camera.exposure_time / _full_time(camera))


def _full_time(camera: Camera) -> float:
    """Exposure time [s] at which 1 cd/m² is as bright in the picture as without a shutter at 0 EV."""
    stop = SHARP_F_NUMBER if camera.f_number is None else camera.f_number
    return REFLECTED_CONSTANT * stop**2 / (GREY * camera.iso)


def by_shutter(scene: Scene, camera: Camera, *, wanted: bool) -> Made:
    """The patch by which the shutter exposes, or EV alone again; the picture stays as bright as it is."""
    if wanted == (camera.exposure_time is not None):
        return Made("", "Exposure", [])
    if wanted:
        time = _full_time(camera) * 2.0**scene.look.exposure
        kept = min(max(_rounded(time), SHORTEST), LONGEST)
        left = round(scene.look.exposure - math.log2(kept / _full_time(camera)), 3)
        return Made("", "Exposure by the shutter", _patch(kept, left))
    return Made("", "Exposure by EV", _patch(None, round(scene.look.exposure + camera_stops(camera), 3)))


def _patch(time: float | None, exposure: float) -> list[dict[str, Any]]:
    return [replaced("/camera/exposure_time", time), replaced("/look/exposure", min(max(exposure, -30.0), 30.0))]


def _rounded(time: float) -> float:
    """To three digits, as a hand would set it."""
    return float(f"{time:.3g}")
