"""Placing the camera and the ground for an asset of any size.

In: bounds in metres, lens and picture shape. Out: new camera, ground and focus. Called by the command line,
by import and by "fit to asset".
"""

import math

import numpy as np

from lantern.scene.document import Camera

THREE_QUARTERS = (math.radians(32.0), math.radians(14.0))
"""Azimuth to the right of the front (+Z) and elevation of the view on a new asset."""
MARGIN = 1.12
_BENDINGS = 12
"""Rounds by which the distortion of a lens is undone: a hundredth of a pixel of the strongest within the picture."""


DIRECTIONS = {"front": (0.0, 0.0, 1.0), "side": (1.0, 0.0, 0.0), "top": (0.0, 1.0, 0.0)}
"""Where a camera stands that looks straight at a side of the asset, +Z being its front."""


def fit_camera(
    camera: Camera,
    low: np.ndarray,
    high: np.ndarray,
    aspect: float,
    *,
    keep_direction: bool,
    side: str | None = None,
    share: float | None = None,
) -> Camera:
    """The camera moved so that the box from `low` to `high` [m] just fits; `aspect` is width / height.

    With a `share` the box fills so much of the frame, of the side that it fills first.

    `keep_direction` keeps the present direction of view; otherwise three-quarters from the front. `side` is a key of
    DIRECTIONS to look from there, orthographically.
    """
    centre, size = (low + high) / 2, np.maximum(high - low, 1e-6)
    if side is not None:
        backwards = np.array(DIRECTIONS[side])
        camera = camera.model_copy(update={"projection": "orthographic"})
    elif keep_direction:
        backwards = np.subtract(camera.position, camera.target)
        backwards = backwards / np.linalg.norm(backwards)
    else:
        azimuth, elevation = THREE_QUARTERS
        backwards = np.array(
            [math.sin(azimuth) * math.cos(elevation), math.sin(elevation), math.cos(azimuth) * math.cos(elevation)]
        )
    right, up = picture_axes(backwards, camera.roll)
    half_width = camera.sensor_width / (2 * camera.focal_length)
    half_height = half_width / aspect
    margin = MARGIN if share is None else 1 / share
    signs = np.array([(x, y, z) for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])
    corners = signs * size / 2
    # A corner at (x, y, z) of the view is inside when x ≤ half_width · (distance - z): solve for the distance.
    depth = corners @ backwards
    needed = np.maximum(np.abs(corners @ right) / half_width, np.abs(corners @ up) / half_height) * margin
    if camera.projection == "perspective":
        needed = needed + depth
    # An orthographic camera stands outside what it shows, or it would cut it open.
    distance = max(float(needed.max()), float(depth.max()) * MARGIN)
    position = centre + backwards * distance
    return camera.model_copy(
        update={
            "position": tuple(float(v) for v in position.round(6)),
            "target": tuple(float(v) for v in centre.round(6)),
            "focus_distance": round(max(distance - float(depth.max()) / 2, 0.001), 6),
        }
    )


def picture_axes(backwards: np.ndarray, roll: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    """Unit right and up of a camera that looks against `backwards`, +Y up; straight down looks with -Z up.

    `roll` [°] turns it about its view, clockwise as who looks through it has it.
    """
    reference = np.array([0.0, 1.0, 0.0])
    if abs(backwards[1]) > 0.99999:
        reference = np.array([0.0, 0.0, -np.sign(backwards[1])])
    right = np.cross(reference, backwards)
    right = right / np.linalg.norm(right)
    up = np.cross(backwards, right)
    if roll == 0:
        return right, up
    cos, sin = math.cos(math.radians(roll)), math.sin(math.radians(roll))
    return right * cos - up * sin, up * cos + right * sin


def places_in_picture(camera: Camera, shape: float, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """((n, 2) places in the picture, (0, 0) upper left to (1, 1), (n,) depths along the view [m]) of points (n, 3).

    `shape` is width over height. The inverse of `point_at_depth`; what lies behind the camera has a depth of 0 or less
    and no place that means anything.
    """
    position, target = np.array(camera.position), np.array(camera.target)
    backwards = position - target
    reach = float(np.linalg.norm(backwards))
    backwards /= reach
    right, up = picture_axes(backwards, camera.roll)
    away = points - position
    depth = -(away @ backwards)
    spread = np.full(len(points), reach) if camera.projection == "orthographic" else np.where(depth > 0, depth, np.nan)
    half = camera.sensor_width / (2 * camera.focal_length)
    bent = np.stack([away @ right, away @ up], axis=1) / spread[:, None]
    bent -= np.array([camera.shift_x, camera.shift_y]) / camera.focal_length
    place = bent.copy()
    for _ in range(_BENDINGS):
        place = bent / (1 + camera.distortion * (place**2).sum(axis=1, keepdims=True) / (half * half))
    return np.stack([place[:, 0] / half + 1, 1 - place[:, 1] * shape / half], axis=1) / 2, depth


def width_at(camera: Camera, depth: float) -> float:
    """How much of the scene [m] the picture is wide at a depth [m] along the view."""
    spread = depth
    if camera.projection == "orthographic":
        spread = math.dist(camera.position, camera.target)
    return camera.sensor_width / camera.focal_length * spread


def point_at_depth(camera: Camera, shape: float, x: float, y: float, depth: float) -> tuple[float, float, float]:
    """World point [m] at a place of the picture, (0, 0) upper left to (1, 1), `depth` [m] along the view.

    `shape` is width over height. Distortion is undone as the lens does it (`lantern.rays.lens`).
    """
    position, target = np.array(camera.position), np.array(camera.target)
    backwards = position - target
    reach = float(np.linalg.norm(backwards))
    backwards /= reach
    right, up = picture_axes(backwards, camera.roll)
    half = camera.sensor_width / (2 * camera.focal_length)
    sx, sy = (2 * x - 1) * half, (1 - 2 * y) * half / shape
    bend = 1 + camera.distortion * (sx * sx + sy * sy) / (half * half)
    sx, sy = sx * bend + camera.shift_x / camera.focal_length, sy * bend + camera.shift_y / camera.focal_length
    spread = reach if camera.projection == "orthographic" else depth
    point = position - backwards * depth + (right * sx + up * sy) * spread
    return float(point[0]), float(point[1]), float(point[2])


def _tilt_at(camera: Camera, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """By how much the inverse depth of the plane of focus at places of the picture, in units of its half width as the
    lens sees it, is that on the axis."""
    across, up = (math.tan(math.radians(v)) for v in (camera.focus_swing, camera.focus_tilt))
    return np.asarray(
        1 + across * (x + camera.shift_x / camera.focal_length) + up * (y + camera.shift_y / camera.focal_length)
    )


def focus_depths(camera: Camera, width: int, height: int) -> np.ndarray:
    """(height, width) depths [m] along the view of the plane of focus, or infinity where it lies behind the camera."""
    half = camera.sensor_width / (2 * camera.focal_length)
    x = ((np.arange(width) + 0.5) / width * 2 - 1) * half
    y = (1 - (np.arange(height) + 0.5) / height * 2) * half * height / width
    inverse = _tilt_at(camera, x[None, :], y[:, None]) / camera.focus_distance
    return np.where(inverse > 0, 1 / np.maximum(inverse, 1e-9), np.inf)


def focus_through(camera: Camera, shape: float, x: float, y: float, depth: float) -> float:
    """The distance [m] to set so that the plane of focus, tilted as it is, passes what is at a place of the picture.

    `shape` is width over height, (0, 0) the upper left, `depth` [m] along the view.
    """
    half = camera.sensor_width / (2 * camera.focal_length)
    tilt = float(_tilt_at(camera, np.array((2 * x - 1) * half), np.array((1 - 2 * y) * half / shape)))
    return depth * max(tilt, 1e-3)
