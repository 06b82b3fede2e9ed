"""A camera of the document as rows of the camera table.

In: `Camera`, `Shutter`, the size of the frame. Out: rows of `CAMERA`, the aperture's rim. Called by `compile.compiled`.
"""

import math
from functools import lru_cache

import numpy as np

from lantern.motion.poses import camera_places
from lantern.rays.layout import CAMERA
from lantern.rays.lens import aperture_table
from lantern.scene.document import Camera, Shutter
from lantern.scene.framing import picture_axes

_rim = lru_cache(maxsize=16)(aperture_table)


def camera_rows(camera: Camera, shutter: Shutter, width: int, height: int) -> tuple[np.ndarray, np.ndarray]:
    """(rows of CAMERA, one a step of a moving camera; rim of the aperture) for a frame of width × height pixels."""
    places = camera_places(camera, shutter)
    row = CAMERA.zeros(len(places))
    for step, (position, target) in zip(row, places, strict=True):
        backwards = position - target
        backwards /= np.linalg.norm(backwards)
        right, up = picture_axes(backwards, camera.roll)
        step["position"], step["right"], step["up"], step["forward"] = position, right, up, -backwards
    row["steps"] = len(places)
    # An orthographic picture is as wide as the perspective one is at its target.
    position, target = places[0]
    reach = float(np.linalg.norm(position - target)) if camera.projection == "orthographic" else 1.0
    row["orthographic"] = camera.projection == "orthographic"
    row["half_width"] = camera.sensor_width / (2 * camera.focal_length) * reach
    row["half_height"] = row["half_width"] * height / width
    row["pixel"] = row["half_width"] * 2 / width
    row["shift_x"] = camera.shift_x / camera.focal_length * reach
    row["shift_y"] = camera.shift_y / camera.focal_length * reach
    # Aperture diameter is focal length over f-number; half of it, in metres.
    row["lens_radius"] = 0.0 if camera.f_number is None else camera.focal_length * 1e-3 / (2 * camera.f_number)
    row["focus_distance"] = camera.focus_distance
    row["tilt_x"], row["tilt_y"] = (math.tan(math.radians(v)) for v in (camera.focus_swing, camera.focus_tilt))
    row["narrowed"], row["cats_eye"] = 1.0 / camera.squeeze, camera.cats_eye
    row["distortion"], row["bladed"] = camera.distortion, camera.blades is not None
    return row, _rim(camera.blades or 3, camera.blade_rotation, camera.blade_roundness)
