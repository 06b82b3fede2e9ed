"""What is sharp: near and far limit of a camera's depth of field, and whether that suits the asset.

In: a camera, the shape of its frame, the box around what is visible. Out: distances along the view [m], doubts with the
patch that ends them. Called by the render host.

The lens is that of the renderer: thin, its picture as large as that of a pinhole of its focal length. A point at depth
d, with the focus at s, is then a disc of A f |1/s - 1/d| on the sensor, A = f/N its aperture; it is sharp up to the
circle of confusion c. So the reciprocal limits lie 1/H to both sides of 1/s, with the hyperfocal distance H = f²/(N c)
(Ray, "Applied Photographic Optics", 3rd ed., section 22.3).
"""

import math
from dataclasses import dataclass
from typing import Any

from lantern.scene.document import Camera
from lantern.scene.fields import Box
from lantern.scene.patching import replaced

CONFUSION = 1 / 1500
"""Circle of confusion, in shares of the frame's diagonal: what is taken for a point from a diagonal away."""
LEAST_F_NUMBER, LARGEST_F_NUMBER = 0.1, 128.0
SHALLOW = 1 / 50
"""Share of the asset's depth below which what is sharp of it is doubted."""
SMALLEST, LARGEST = 0.005, 100.0
"""m: sizes of an asset from which on its unit is asked about."""


@dataclass(frozen=True)
class Sharpness:
    """Depths [m] between which everything is sharp; `far` is None where that is as far as one sees."""

    near: float
    far: float | None


@dataclass(frozen=True)
class FocusDoubt:
    """Something that is hardly meant, in a sentence, and the patch that would mend it; empty where none would."""

    text: str
    patch: tuple[dict[str, Any], ...] = ()


def sharpness(camera: Camera, shape: float) -> Sharpness | None:
    """What a camera shows sharp in a frame of `shape`, width over height; None where all of it is.

    None as well for a tilted plane of focus: its limits are a wedge, and no depths.
    """
    if camera.f_number is None or camera.projection == "orthographic" or camera.focus_tilt or camera.focus_swing:
        return None
    focal = camera.focal_length * 1e-3
    step = camera.f_number * _confusion(camera, shape) / focal**2
    at = 1.0 / camera.focus_distance
    return Sharpness(1.0 / (at + step), 1.0 / (at - step) if at > step else None)


def sharp_between(camera: Camera, shape: float, near: float, far: float) -> tuple[float, float] | None:
    """(distance [m], f-number) by which just what lies between two depths [m] is sharp; None for a parallel view.

    Of two that are equal the f-number stays as it is. f-numbers end where a document's do.
    """
    if camera.projection == "orthographic":
        return None
    near, far = sorted((near, far))
    distance = 2 / (1 / near + 1 / far)
    step = (1 / near - 1 / far) / 2
    if step * distance < 1e-6:
        return distance, camera.f_number or LARGEST_F_NUMBER
    wanted = step * (camera.focal_length * 1e-3) ** 2 / _confusion(camera, shape)
    return distance, min(max(wanted, LEAST_F_NUMBER), LARGEST_F_NUMBER)


def _confusion(camera: Camera, shape: float) -> float:
    """m on the sensor."""
    return camera.sensor_width * 1e-3 * math.hypot(1.0, 1.0 / shape) * CONFUSION


def focus_doubts(camera: Camera, shape: float, box: Box | None) -> list[FocusDoubt]:
    """What of focus and depth of field is implausible for what lies in a box; nothing for an empty scene."""
    sharp = sharpness(camera, shape)
    if box is None or sharp is None:
        return []
    front, back = _depths(camera, box)
    if back <= 0:
        return []
    front = max(front, 0.0)
    size = max(high - low for low, high in zip(*box, strict=True))
    middle = float(f"{(front + back) / 2:.6g}")
    to_middle = (
        replaced("/camera/focus_distance", middle),
        replaced("/camera/focus_on", None),
        replaced("/camera/close_up", None),
    )
    found = []
    far = math.inf if sharp.far is None else sharp.far
    if far < front or sharp.near > back:
        found.append(
            FocusDoubt(
                f"Nothing of the asset is sharp: it lies between {length(front)} and {length(back)}, and the focus at "
                f"{length(camera.focus_distance)}.",
                to_middle,
            )
        )
    elif (of_it := min(far, back) - max(sharp.near, front)) < SHALLOW * (back - front):
        found.append(FocusDoubt(f"Only {length(of_it)} of the asset's {length(back - front)} are sharp."))
    if found and not SMALLEST <= size <= LARGEST:
        asked = "did it come in another unit? Asset, Size says which."
        found.append(FocusDoubt(f"This asset is {length(size)} large: {asked}"))
    return found


def _depths(camera: Camera, box: Box) -> tuple[float, float]:
    """Least and largest depth [m] of a box along the view."""
    ahead = [t - p for t, p in zip(camera.target, camera.position, strict=True)]
    reach = math.sqrt(sum(v * v for v in ahead)) or 1.0
    depths = [
        sum((corner - p) * v / reach for corner, p, v in zip(at, camera.position, ahead, strict=True))
        for at in _corners(box)
    ]
    return min(depths), max(depths)


def _corners(box: Box) -> list[tuple[float, float, float]]:
    (x0, y0, z0), (x1, y1, z1) = box
    return [(x, y, z) for x in (x0, x1) for y in (y0, y1) for z in (z0, z1)]


def length(metres: float) -> str:
    """A length as a person says it: 4 mm, 29 cm, 1.2 m, 3 km."""
    for unit, size in (("km", 1000.0), ("m", 1.0), ("cm", 0.01)):
        if metres >= size:
            return f"{metres / size:.3g} {unit}"
    return f"{metres * 1000:.2g} mm"
