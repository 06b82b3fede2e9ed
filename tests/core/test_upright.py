"""Verticals kept upright by a shift of the lens; a box that fills a chosen share of the frame."""

import numpy as np
import pytest

from lantern.scene.document import Camera, Scene
from lantern.scene.framing import fit_camera, focus_depths, focus_through, places_in_picture
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.upright import level, standing_upright, upright

DOWN = Camera(position=(0.4, 0.9, 1.2), target=(0.1, 0.2, 0.0), focal_length=50.0)


def test_verticals_are_parallel_and_what_was_aimed_at_stays_where_it_was():
    shifted = upright(DOWN)
    base, top = (0.3, 0.0, 0.0), (0.3, 0.5, 0.0)
    places, _ = places_in_picture(shifted, 1.5, np.array([base, top, DOWN.target]))
    assert places[0, 0] == pytest.approx(places[1, 0], abs=1e-6) and places[2] == pytest.approx((0.5, 0.5), abs=1e-4)
    before, _ = places_in_picture(DOWN, 1.5, np.array([base, top]))
    assert abs(before[0, 0] - before[1, 0]) > 0.01, "they were not before"


def test_what_is_at_the_target_stays_as_large():
    side = np.array([DOWN.target, np.add(DOWN.target, (0.048, 0.0, -0.012))])  # level, across the view
    widths = [np.linalg.norm(np.diff(places_in_picture(one, 1.5, side)[0], axis=0)) for one in (DOWN, upright(DOWN))]
    assert widths[1] == pytest.approx(widths[0], rel=1e-3)


def test_a_camera_that_looks_straight_down_cannot_be_shifted_upright():
    assert upright(Camera(position=(0, 2, 0), target=(0, 0, 0))) is None
    assert standing_upright(Scene(), Camera(position=(0, 200, 0.01), target=(0, 0, 0)), "shift") is None


def test_level_looks_level_and_the_patch_fits_the_document():
    assert level(DOWN).target == (0.1, 0.9, 0.0)
    scene = Scene(camera=DOWN)
    made = standing_upright(scene, DOWN, "level")
    assert read_scene(apply_operations(scene.plain(), made.patch)[0]).camera == level(DOWN)


@pytest.mark.parametrize("share", [0.3, 0.6, 1.0])
def test_a_box_fills_the_share_of_the_frame_that_was_chosen(share):
    low, high = np.array([-0.1, 0.0, -0.1]), np.array([0.1, 0.4, 0.1])
    camera = fit_camera(DOWN, low, high, 1.5, keep_direction=True, share=share)
    corners = np.array([(x, y, z) for x in (-0.1, 0.1) for y in (0.0, 0.4) for z in (-0.1, 0.1)])
    places, _ = places_in_picture(camera, 1.5, corners)
    off = np.abs(places - 0.5).max() * 2
    assert off == pytest.approx(share, rel=1e-3)


def test_a_press_focuses_a_tilted_plane_there():
    camera = DOWN.model_copy(update={"focus_tilt": 35.0, "focus_swing": -20.0})
    distance = focus_through(camera, 1.5, 0.3, 0.8, 1.7)
    focused = camera.model_copy(update={"focus_distance": distance})
    assert focus_depths(focused, 600, 400)[320, 180] == pytest.approx(1.7, rel=5e-3)
    assert focus_through(DOWN, 1.5, 0.3, 0.8, 1.7) == pytest.approx(1.7)
