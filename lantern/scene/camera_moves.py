"""Moves of the camera from where it is: towards what it looks at, away from it, over it, about it.

In: a document, a camera. Out: shots to be kept, and the way from one to the other. Called by the render host.
"""

from typing import Literal

from lantern.scene.document import Camera, Scene, Shot
from lantern.scene.keys import free_key
from lantern.scene.motion import Travel
from lantern.scene.orders import seen_around

CameraWay = Literal["push", "pull", "rise", "around"]
CAMERA_WAYS: dict[CameraWay, tuple[str, dict[str, float]]] = {
    "push": ("Pushes in", {"azimuth": 0.0, "closer": 1.6}),
    "pull": ("Pulls back", {"azimuth": 0.0, "closer": 1 / 1.6}),
    "rise": ("Rises", {"azimuth": 0.0, "raised": 25.0}),
    "around": ("Goes around", {"azimuth": 60.0}),
}
"""What a move of the camera is called, and how far it goes (`orders.seen_around`)."""


def camera_move(scene: Scene, camera: Camera, way: CameraWay) -> tuple[dict[str, Shot], Travel]:
    """(the shots to be kept, the way between) of a move of a camera; where a shot has that camera it begins there."""
    name, far = CAMERA_WAYS[way]
    size = {"width": scene.print.width, "height": scene.print.height}
    kept = dict[str, Shot]()
    first = next((key for key, shot in scene.shots.items() if shot.camera == camera), None)
    if first is None:
        first = free_key(scene.shots, "shot")[0]
        kept[first] = Shot.model_validate({"name": f"{name}, begins", "camera": camera, **size})
    last = free_key({**scene.shots, **kept}, "shot")[0]
    kept[last] = Shot.model_validate({"name": f"{name}, ends", "camera": seen_around(camera, **far), **size})
    return kept, Travel(name=name, first=first, last=last, pace="soft")
