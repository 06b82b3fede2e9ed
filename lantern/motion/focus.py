"""Where the focus of a camera lies: as it is set or on a part that it follows, and nearer through a close-up lens.

In: the document, a camera. Out: the same camera with that distance set. Called where rays start, where sharpness is
told and where it is drawn.
"""

import numpy as np

from lantern.motion.poses import camera_places, part_poses
from lantern.scene.document import Camera, FollowedFocus, Scene, Shutter
from lantern.scene.placing import Places

NEAREST, FARTHEST = 0.001, 1e6
"""Distances [m] that a focus may have."""


def focused(scene: Scene, camera: Camera) -> Camera:
    """A camera that neither follows a part nor has a close-up lens, with the focus where both put it at the moment of
    the frame. The same object when it has neither. A part that is gone, or behind it, is not followed.
    """
    if camera.focus_on is None and camera.close_up is None:
        return camera
    distance = camera.focus_distance
    if camera.focus_on is not None:
        followed = _depth(scene, camera, camera.focus_on)
        distance = distance if followed is None else followed
    if camera.close_up is not None:
        # A thin lens in front of another adds its power: what is at infinity for the first is at its focal length.
        distance = 1.0 / (1.0 / distance + camera.close_up)
    distance = min(max(distance, NEAREST), FARTHEST)
    return camera.model_copy(update={"focus_distance": distance, "focus_on": None, "close_up": None})


def set_distance(camera: Camera, distance: float) -> float:
    """The distance [m] to set so that the focus lies at `distance` through the close-up lens that the camera has.

    What lies farther than the lens lets it is had at the farthest setting.
    """
    if camera.close_up is None:
        return distance
    power = 1.0 / distance - camera.close_up
    return FARTHEST if power <= 1.0 / FARTHEST else 1.0 / power


def _frozen(scene: Scene) -> Shutter:
    return Shutter(time=scene.shutter.time)


def _depth(scene: Scene, camera: Camera, on: FollowedFocus) -> float | None:
    """m along the view; None for what is gone, or behind the camera."""
    part = scene.parts.get(on.part)
    if part is None:
        return None
    pose = part_poses(part, _frozen(scene), Places.of(scene))[0]
    point = pose[:, :3] @ np.array(on.point) + pose[:, 3]
    position, target = camera_places(camera, _frozen(scene))[0]
    view = target - position
    depth = float((point - position) @ view / np.linalg.norm(view))
    return depth if depth >= NEAREST else None


def followed_point(scene: Scene, part: str, point: np.ndarray) -> FollowedFocus | None:
    """What follows a point (3,) [m] of the scene on a part; None for a part that has no size there."""
    pose = part_poses(scene.parts[part], _frozen(scene), Places.of(scene))[0]
    if abs(np.linalg.det(pose[:, :3])) < 1e-18:
        return None
    own = np.linalg.solve(pose[:, :3], point - pose[:, 3])
    return FollowedFocus(part=part, point=tuple(float(f"{v:.7g}") for v in own))
