"""Poses between keys."""

import math

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from lantern.motion.poses import between, camera_places, part_pose, part_poses
from lantern.scene.document import Camera, CameraKey, Part, PartKey, Shutter


def turned(angle):
    """A turn about +Y, in radians."""
    return Rotation.from_euler("y", angle).as_matrix()


def pose(rotation, shift=(0, 0, 0)):
    return np.concatenate([rotation, np.reshape(shift, (3, 1))], axis=1)


def flat(matrix):
    return tuple(float(x) for x in matrix.ravel())


def test_halfway_between_two_turns_is_half_the_turn():
    middle = between(pose(np.eye(3)), pose(turned(1.2), (2, 0, 0)), 0.5)
    assert middle == pytest.approx(pose(turned(0.6), (1, 0, 0)), abs=1e-12)


def test_ends_are_kept_whatever_they_stretch_and_mirror():
    generator = np.random.default_rng(2)
    for _ in range(20):
        a, b = generator.normal(size=(2, 3, 4))
        assert between(a, b, 0.0) == pytest.approx(a, abs=1e-9)
        assert between(a, b, 1.0) == pytest.approx(b, abs=1e-9)


def test_half_a_turn_has_an_axis():
    middle = between(pose(np.eye(3)), pose(turned(math.pi)), 0.5)
    assert np.linalg.det(middle[:, :3]) == pytest.approx(1)
    assert abs(middle[1, 1]) == pytest.approx(1, abs=1e-9)


def test_a_part_is_held_before_its_first_key_and_after_its_last():
    keys = tuple(PartKey(time=t, matrix=flat(pose(np.eye(3), (t, 0, 0)))) for t in (1.0, 2.0))
    part = Part(name="p", mesh=0, material="m", keys=keys)
    for time, expected in ((0.0, 1.0), (1.25, 1.25), (5.0, 2.0)):
        assert part_pose(part, time)[0, 3] == pytest.approx(expected)


def test_a_turn_is_cut_into_steps_and_rest_is_one():
    turning = tuple(PartKey(time=t, matrix=flat(pose(turned(t * math.pi / 2)))) for t in (0.0, 1.0))
    part = Part(name="p", mesh=0, material="m", keys=turning)
    assert len(part_poses(part, Shutter(opens=0, closes=1))) == 10
    assert len(part_poses(part, Shutter())) == 1
    assert len(part_poses(Part(name="p", mesh=0, material="m"), Shutter(opens=0, closes=1))) == 1


def test_camera_keys():
    keys = tuple(CameraKey(time=t, position=(t, 0, 1), target=(t, 0, 0)) for t in (0.0, 1.0))
    places = camera_places(Camera(keys=keys), Shutter(time=0.5, opens=-0.25, closes=0.25))
    assert [p[0][0] for p in places] == pytest.approx([0.25, 0.75])


def test_keys_must_rise_and_the_shutter_close_after_it_opens():
    with pytest.raises(ValueError, match="must rise"):
        Part(name="p", mesh=0, material="m", keys=(PartKey(time=1, matrix=flat(pose(np.eye(3)))),) * 2)
    with pytest.raises(ValueError, match="before it opens"):
        Shutter(opens=0.1, closes=0.0)
