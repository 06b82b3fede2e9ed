"""Poses between keys, and the poses of a part, a mesh and a camera from shutter open to close.

A matrix between two keys turns at an even rate about one axis and stretches and shifts evenly: both are split into a
rotation and a stretch (polar decomposition: Shoemake & Duff, "Matrix Animation and Polar Decomposition", Graphics
Interface 1992), rotations are interpolated along the shortest arc (Shoemake, "Animating Rotation with Quaternion
Curves", SIGGRAPH 1985). The ray library moves things along straight lines, so a turn is cut into steps.
"""

import math
from collections.abc import Sequence

import numpy as np
from scipy.linalg import polar
from scipy.spatial.transform import Rotation

from lantern.motion.clips import PlayedShutter
from lantern.scene.document import Camera, Part, Shutter
from lantern.scene.placing import AT_REST, REST, Places

TURN_A_STEP = math.radians(10)
MOST_STEPS = 32


def _split(linear: np.ndarray) -> tuple[Rotation, np.ndarray]:
    """(rotation, stretch) of a 3x3 matrix; a mirroring stays in the stretch."""
    turned, stretch = polar(linear)
    if np.linalg.det(turned) < 0:
        turned, stretch = -turned, -stretch
    return Rotation.from_matrix(turned), stretch


def between(first: np.ndarray, second: np.ndarray, t: float) -> np.ndarray:
    """The (3, 4) pose a share t [0, 1] of the way from one to another."""
    (rotation_a, stretch_a), (rotation_b, stretch_b) = _split(first[:, :3]), _split(second[:, :3])
    way = Rotation.from_rotvec((rotation_a.inv() * rotation_b).as_rotvec() * t)
    linear = (rotation_a * way).as_matrix() @ (stretch_a + (stretch_b - stretch_a) * t)
    shift = first[:, 3] + (second[:, 3] - first[:, 3]) * t
    return np.concatenate([linear, shift[:, None]], axis=1)


def _span(times: Sequence[float] | np.ndarray, time: float) -> tuple[int, float]:
    """(number of the key before a moment, share of the way to the next); held before the first and after the last."""
    i = int(np.clip(np.searchsorted(times, time, side="right") - 1, 0, len(times) - 2))
    return i, float(np.clip((time - times[i]) / (times[i + 1] - times[i]), 0.0, 1.0))


def part_pose(part: Part, time: float) -> np.ndarray:
    """(3, 4) object to world of a part at a moment [s]."""
    return _part_pose(part, [key.time for key in part.keys], time)


def _part_pose(part: Part, times: Sequence[float], time: float) -> np.ndarray:
    """`part_pose` of a part whose keys are at `times`: only the two keys around the moment become arrays."""
    if not part.keys:
        return np.array(part.matrix, np.float64).reshape(3, 4)
    if len(part.keys) == 1:
        return np.array(part.keys[0].matrix, np.float64).reshape(3, 4)
    i, t = _span(times, time)
    first, second = (np.array(part.keys[k].matrix, np.float64).reshape(3, 4) for k in (i, i + 1))
    return between(first, second, t)


def _moments(shutter: Shutter, steps: int) -> np.ndarray:
    return np.linspace(shutter.time + shutter.opens, shutter.time + shutter.closes, steps)


def is_open(shutter: Shutter) -> bool:
    """Whether the shutter is open for any time at all."""
    return shutter.closes > shutter.opens


def _steps_for(part: Part, poses: np.ndarray) -> int:
    """How many straight steps a part's way through poses (k, 3, 4) is cut into."""
    rotations = Rotation.concatenate([_split(pose[:, :3])[0] for pose in poses])
    turn = float((rotations[:-1].inv() * rotations[1:]).magnitude().sum())
    return min(max(2, math.ceil(turn / TURN_A_STEP - 1e-6) + 1, len(part.keys)), MOST_STEPS)


def part_poses(part: Part, shutter: Shutter, places: Places = AT_REST) -> np.ndarray:
    """(steps, 3, 4) poses from shutter open to close; one step for a part that rests all the while."""
    poses, over = _own_poses(part, shutter), places.over(part)
    if over is REST:
        return poses
    placed = over[:3, :3] @ poses
    placed[:, :, 3] += over[:3, 3]
    return placed


def _own_poses(part: Part, shutter: Shutter) -> np.ndarray:
    """As the file says."""
    if not part.keys:
        return np.array(part.matrix, np.float64).reshape(1, 3, 4)
    times = [key.time for key in part.keys]
    if not is_open(shutter):
        return _part_pose(part, times, shutter.time)[None]
    ends = np.stack([_part_pose(part, times, float(moment)) for moment in _moments(shutter, 9)])
    if (ends == ends[0]).all():
        return ends[:1]
    return np.stack([_part_pose(part, times, float(m)) for m in _moments(shutter, _steps_for(part, ends))])


def camera_places(camera: Camera, shutter: Shutter) -> list[tuple[np.ndarray, np.ndarray]]:
    """(position, target) from shutter open to close; one entry for a camera at rest."""
    if not camera.keys:
        return [(np.array(camera.position, np.float64), np.array(camera.target, np.float64))]
    moments = _moments(shutter, 2 if len(camera.keys) == 2 else 9) if is_open(shutter) else [shutter.time]
    return [_camera_at(camera, float(moment)) for moment in moments]


def _camera_at(camera: Camera, time: float) -> tuple[np.ndarray, np.ndarray]:
    if len(camera.keys) == 1:
        i, t = 0, 0.0
    else:
        i, t = _span([key.time for key in camera.keys], time)
    ends = camera.keys[i], camera.keys[min(i + 1, len(camera.keys) - 1)]
    (a, b), (c, d) = ((np.array(key.position, np.float64), np.array(key.target, np.float64)) for key in ends)
    return a + (c - a) * t, b + (d - b) * t


def mesh_poses(times: Sequence[float], poses: np.ndarray, shutter: Shutter) -> np.ndarray:
    """(steps, n, …) of a deforming mesh from shutter open to close, out of (k, n, …) at `times` (k,) [s]."""
    moments = _moments(shutter, min(max(len(times), 2), MOST_STEPS)) if is_open(shutter) else [shutter.time]
    of_clip = shutter.of_clip if isinstance(shutter, PlayedShutter) else float
    steps = []
    for moment in moments:
        i, t = _span(times, of_clip(float(moment)))
        steps.append(poses[i] + (poses[i + 1] - poses[i]) * np.float32(t))
    return np.stack(steps)
