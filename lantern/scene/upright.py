"""Verticals that stay upright: a camera that looks level, and sees what it saw by a shift of its lens.

In: a camera. Out: a camera, the patch to it. Called by the render host. As with a view camera whose back stays upright:
the plane of the picture is parallel to all verticals, so that they are parallel in it.
"""

import math
from typing import Literal

from lantern.scene.document import Camera, Scene
from lantern.scene.making import Made
from lantern.scene.patching import replaced

MOST_SHIFT, SHORTEST = 200.0, 4.0
"""Shift and focal length [mm] that a document takes."""


def upright(camera: Camera) -> Camera | None:
    """The camera looking level, shifted so that its target stays where it was in the picture, and as large.

    None when it looks so steeply that no shift reaches.
    """
    (x, y, z), (tx, ty, tz) = camera.position, camera.target
    away, rise = math.hypot(tx - x, tz - z), ty - y
    if away < 1e-6:
        return None
    # At the target the picture shows as much as before: it is nearer along the new view.
    focal = camera.focal_length * away / math.hypot(away, rise)
    shift = focal * rise / away + camera.shift_y
    if abs(shift) > MOST_SHIFT or focal < SHORTEST:
        return None
    return camera.model_copy(
        update={
            "target": (tx, y, tz), "focal_length": round(focal, 3), "shift_y": round(shift, 3),
            "focus_distance": round(max(camera.focus_distance * away / math.hypot(away, rise), 0.001), 6),
        }
    )  # fmt: skip


def level(camera: Camera) -> Camera:
    """The camera looking level from where it stands, its lens without a shift up."""
    (x, y, z), (tx, _, tz) = camera.position, camera.target
    if math.hypot(tx - x, tz - z) < 1e-6:
        return camera
    return camera.model_copy(update={"target": (tx, y, tz), "shift_y": 0.0})


def standing_upright(scene: Scene, camera: Camera, how: Literal["shift", "level"]) -> Made | None:
    """The patch to one of the two; None when no shift reaches."""
    after = upright(camera) if how == "shift" else level(camera)
    if after is None:
        return None
    patch = [] if after == scene.camera else [replaced("/camera", after.model_dump(mode="json"))]
    return Made("", "Verticals upright" if how == "shift" else "Look level", patch)
