"""Poses between keys, and the poses of a part, a mesh and a camera from shutter open to close.

A matrix between two keys turns at an even rate about one axis and stretches and shifts evenly: both are split into a
rotation and a stretch (polar decomposition: Shoemake & Duff, "Matrix Animation and Polar Decomposition", Graphics
Interface 1992), rotations are interpolated along the shortest arc (Shoemake, "Animating Rotation with Quaternion
Curves", SIGGRAPH 1985). The ray library moves things along straight lines, so a turn is cut into steps.
"""

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from lantern.scene.document import Camera, Part, Shutter

TURN_A_STEP = math.radians(10)
MOST_STEPS = 32


def _polar(linear: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(rotation, stretch) of a 3x3 matrix; a mirroring stays in the stretch."""
    u, _, v = np.linalg.svd(linear)
    rotation = u @ v
    if np.linalg.det(rotation) < 0:
        u[:, -1] = -u[:, -1]
        rotation = u @ v
    return rotation, rotation.T @ linear


def _axis_angle(rotation: np.ndarray) -> tuple[np.ndarray, float]:
    angle = math.acos(min(max((np.trace(rotation) - 1) / 2, -1.0), 1.0))
    axis = np.array([rotation[2, 1] - rotation[1, 2], rotation[0, 2] - rotation[2, 0], rotation[1, 0] - rotation[0, 1]])
    length = np.linalg.norm(axis)
    if length > 1e-9:
        return axis / length, angle
    if angle < 1:
        return np.array([0.0, 1.0, 0.0]), 0.0
    # Half a turn: the axis is the column that the symmetric part keeps.
    column = np.argmax(np.diag(rotation))
    axis = (rotation[:, column] + np.eye(3)[column]) / 2
    return axis / np.linalg.norm(axis), angle


def turned(axis: np.ndarray, angle: float) -> np.ndarray:
    """Rotation matrix about a unit axis, angle in radians (Rodrigues' formula)."""
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross)


def between(first: np.ndarray, second: np.ndarray, t: float) -> np.ndarray:
    """The (3, 4) pose a share t [0, 1] of the way from one to another."""
    (rotation_a, stretch_a), (rotation_b, stretch_b) = _polar(first[:, :3]), _polar(second[:, :3])
    axis, angle = _axis_angle(rotation_a.T @ rotation_b)
    linear = rotation_a @ turned(axis, angle * t) @ (stretch_a + (stretch_b - stretch_a) * t)
    shift = first[:, 3] + (second[:, 3] - first[:, 3]) * t
    return np.concatenate([linear, shift[:, None]], axis=1)


def _span(times: Sequence[float], time: float) -> tuple[int, float]:
    """(number of the key before a moment, share of the way to the next); held before the first and after the last."""
    i = int(np.clip(np.searchsorted(times, time, side="right") - 1, 0, len(times) - 2))
    return i, float(np.clip((time - times[i]) / (times[i + 1] - times[i]), 0.0, 1.0))


def part_pose(part: Part, time: float) -> np.ndarray:
    """(3, 4) object to world of a part at a moment [s]."""
    if not part.keys:
        return np.array(part.matrix, np.float64).reshape(3, 4)
    matrices = [np.array(key.matrix, np.float64).reshape(3, 4) for key in part.keys]
    if len(matrices) == 1:
        return matrices[0]
    i, t = _span([key.time for key in part.keys], time)
    return between(matrices[i], matrices[i + 1], t)


def _moments(shutter: Shutter, steps: int) -> np.ndarray:
    return np.linspace(shutter.time + shutter.opens, shutter.time + shutter.closes, steps)


def is_open(shutter: Shutter) -> bool:
    """Whether the shutter is open for any time at all."""
    return shutter.closes > shutter.opens


def part_poses(part: Part, shutter: Shutter) -> np.ndarray:
    """(steps, 3, 4) poses from shutter open to close; one step for a part that rests all the while."""
    if not part.keys or not is_open(shutter):
        return part_pose(part, shutter.time)[None]
    ends = [part_pose(part, float(moment)) for moment in _moments(shutter, 9)]
    if all(np.array_equal(pose, ends[0]) for pose in ends):
        return ends[0][None]
    turn = sum(_axis_angle(_polar(a[:, :3])[0].T @ _polar(b[:, :3])[0])[1] for a, b in pairwise(ends))
    steps = min(
        max(2, math.ceil(turn / TURN_A_STEP - 1e-6) + 1, len(part.keys) if len(part.keys) > 2 else 2), MOST_STEPS
    )
    return np.stack([part_pose(part, float(moment)) for moment in _moments(shutter, steps)])


def camera_places(camera: Camera, shutter: Shutter) -> list[tuple[np.ndarray, np.ndarray]]:
    """(position, target) from shutter open to close; one entry for a camera at rest."""
    if not camera.keys:
        return [(np.array(camera.position, np.float64), np.array(camera.target, np.float64))]
    moments = _moments(shutter, 2 if len(camera.keys) == 2 else 9) if is_open(shutter) else [shutter.time]
    return [_camera_at(camera, float(moment)) for moment in moments]


def _camera_at(camera: Camera, time: float) -> tuple[np.ndarray, np.ndarray]:
    places = [(np.array(key.position, np.float64), np.array(key.target, np.float64)) for key in camera.keys]
    if len(places) == 1:
        return places[0]
    i, t = _span([key.time for key in camera.keys], time)
    (a, b), (c, d) = places[i], places[i + 1]
    return a + (c - a) * t, b + (d - b) * t


def mesh_poses(times: Sequence[float], poses: np.ndarray, shutter: Shutter) -> np.ndarray:
    """(steps, n, …) of a deforming mesh from shutter open to close, out of (k, n, …) at `times` (k,) [s]."""
    moments = _moments(shutter, min(max(len(times), 2), MOST_STEPS)) if is_open(shutter) else [shutter.time]
    steps = []
    for moment in moments:
        i, t = _span(times, float(moment))
        steps.append(poses[i] + (poses[i + 1] - poses[i]) * np.float32(t))
    return np.stack(steps)
