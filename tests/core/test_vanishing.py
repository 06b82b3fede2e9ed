"""A camera found again from lines that it sees of a box."""

import numpy as np
import pytest

from lantern.scene.document import Camera
from lantern.scene.framing import places_in_picture
from lantern.scene.vanishing import matched

SHAPE = 1.5
BOX = np.array([(x, y, z) for x in (-0.3, 0.3) for y in (0.0, 0.4) for z in (-0.2, 0.2)])
EDGES_ALONG, EDGES_ACROSS = ((4, 5), (6, 7)), ((1, 5), (3, 7))
"""Corners at the ends of two edges each that run along Z, and along X."""
TAKEN_BY = [
    Camera(position=(0.9, 0.7, 1.4), target=(0.1, 0.15, 0.05), focal_length=35.0),
    Camera(position=(-1.2, 0.5, 0.8), target=(0.0, 0.2, 0.0), focal_length=85.0, roll=7.0),
    Camera(position=(0.5, 1.6, 0.7), target=(0.0, 0.0, 0.0), focal_length=24.0, sensor_width=24.0, roll=-12.0),
]
FOOT = np.array([0.2, 0.0, -0.1])
BEFORE = Camera(position=(0.2, 0.9, 2.5), target=(0.0, 0.15, 0.0), focal_length=50.0, shift_y=3.0)


def lines(camera, edges):
    places, _ = places_in_picture(camera, SHAPE, BOX)
    return tuple((*places[a], *places[b]) for a, b in edges)


@pytest.mark.parametrize("truth", TAKEN_BY)
def test_lens_turn_and_roll_are_those_of_the_camera_that_took_the_photograph(truth):
    start = BEFORE.model_copy(update={"sensor_width": truth.sensor_width, "position": truth.position})
    found = matched(start, SHAPE, lines(truth, EDGES_ALONG), lines(truth, EDGES_ACROSS), (0.5, 0.6), FOOT)
    assert found.focal_length == pytest.approx(truth.focal_length, rel=1e-3)
    assert found.roll == pytest.approx(truth.roll, abs=0.02) and found.shift_y == 0

    def view(camera):
        way = np.subtract(camera.target, camera.position)
        return way / np.linalg.norm(way)

    assert view(found) == pytest.approx(view(truth), abs=1e-3)
    # Lines of the world now meet where they do in the photograph, wherever they are.
    places, _ = places_in_picture(found, SHAPE, BOX)
    seen, _ = places_in_picture(truth, SHAPE, BOX)
    for edges in (EDGES_ALONG, EDGES_ACROSS):
        assert _meeting(places, edges) == pytest.approx(_meeting(seen, edges), rel=2e-2, abs=2e-2)


def _meeting(places, edges):
    first, second = (np.cross([*places[a], 1.0], [*places[b], 1.0]) for a, b in edges)
    x, y, w = np.cross(first, second)
    return x / w, y / w


def test_the_foot_of_the_asset_stands_where_it_is_pressed():
    truth = TAKEN_BY[0]
    for foot in ((0.5, 0.6), (0.2, 0.85)):
        found = matched(BEFORE, SHAPE, lines(truth, EDGES_ALONG), lines(truth, EDGES_ACROSS), foot, FOOT)
        places, depths = places_in_picture(found, SHAPE, FOOT[None])
        assert places[0] == pytest.approx(foot, abs=1e-3)
        assert depths[0] == pytest.approx(np.linalg.norm(np.subtract(BEFORE.position, FOOT)), abs=1e-3)


def test_lines_that_are_parallel_in_the_picture_leave_the_lens_as_it_is():
    front = Camera(position=(0.0, 0.8, 2.0), target=(0.0, 0.2, 0.0), focal_length=50.0)
    found = matched(BEFORE, SHAPE, lines(front, EDGES_ALONG), lines(front, EDGES_ACROSS), (0.5, 0.6), FOOT)
    assert found.focal_length == BEFORE.focal_length and found.roll == pytest.approx(0, abs=0.05)


@pytest.mark.parametrize(
    ("along", "across", "said"),
    [
        (((0.4, 0.4, 0.4, 0.4), (0.1, 0.9, 0.4, 0.6)), ((0.9, 0.9, 0.6, 0.6), (0.9, 0.1, 0.6, 0.4)), "no length"),
        (((0.1, 0.1, 0.4, 0.4), (0.1, 0.1, 0.4, 0.4)), ((0.9, 0.9, 0.6, 0.6), (0.9, 0.1, 0.6, 0.4)), "are one"),
        (((0.6, 0.1, 0.8, 0.4), (0.6, 0.9, 0.8, 0.6)), ((0.6, 0.2, 0.9, 0.4), (0.6, 0.8, 0.9, 0.6)), "no lens sees"),
    ],
)
def test_what_no_camera_sees_so_is_said(along, across, said):
    with pytest.raises(ValueError, match=said):
        matched(BEFORE, SHAPE, along, across, (0.5, 0.6), FOOT)
