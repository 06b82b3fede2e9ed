"""Exposure by shutter, f-number and ISO; what the camera's roll, close-up lens and followed focus do to its rays."""

import math

import numpy as np
import pytest

from lantern.assets.writers.content import looking
from lantern.engine.engine import Engine
from lantern.engine.relighting import metered_exposure
from lantern.motion.focus import focused, followed_point, set_distance
from lantern.picture.look.pipeline import Finisher, graded
from lantern.picture.look.surround import Surround
from lantern.scene.document import Asset, Camera, FollowedFocus, Part, PartKey, Scene, Shot, Shutter
from lantern.scene.exposing import by_shutter, camera_stops
from lantern.scene.focus import focus_doubts, sharp_between, sharpness
from lantern.scene.forms import BallForm
from lantern.scene.framing import places_in_picture, point_at_depth
from lantern.scene.look import Contrast, Look
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.placed import PartGroup
from lantern.scene.reading import read_scene
from lantern.scene.standing import rescaled
from tests.core.shapes import WHITE, scene_of, slab_mesh, sphere_mesh, traced


def after(scene, made):
    return read_scene(apply_operations(scene.plain(), made.patch)[0])


def test_what_a_meter_reads_becomes_grey():
    """ISO 2720: EV at ISO 100 of L cd/m² is log2(100 L / K), K = 12.5; EV is log2(N²/t) as well."""
    camera = Camera(f_number=8.0, exposure_time=1 / 125, iso=100)
    luminance = 12.5 * 2 ** math.log2(8.0**2 * 125) / 100
    assert luminance * 2 ** camera_stops(camera) == pytest.approx(0.18)
    for change in ({"f_number": 8 / math.sqrt(2)}, {"exposure_time": 2 / 125}, {"iso": 200.0}):
        assert camera_stops(camera.model_copy(update=change)) - camera_stops(camera) == pytest.approx(1.0)
    assert camera_stops(Camera(f_number=8.0, iso=800)) == 0, "without a shutter it is the EV of the look alone"
    sharp = camera.model_copy(update={"f_number": None})
    assert camera_stops(sharp) == camera_stops(camera), "all sharp exposes as f/8"


@pytest.mark.parametrize("exposure", [0.0, -7.3, 4.0])
def test_the_shutter_takes_over_and_gives_back_a_picture_as_bright(exposure):
    scene = Scene(look=Look(exposure=exposure), camera=Camera(f_number=4.0, iso=400))
    by_time = after(scene, by_shutter(scene, scene.camera, wanted=True))
    assert by_time.camera.exposure_time is not None and abs(by_time.look.exposure) < 0.01
    assert by_time.look.exposure + camera_stops(by_time.camera) == pytest.approx(exposure, abs=1e-3)
    back = after(by_time, by_shutter(by_time, by_time.camera, wanted=False))
    assert back.camera.exposure_time is None and back.look.exposure == pytest.approx(exposure, abs=2e-3)
    assert by_shutter(back, back.camera, wanted=False).patch == []


def test_an_exposure_beyond_the_longest_time_is_kept_by_what_is_left_of_ev():
    scene = Scene(look=Look(exposure=20.0), camera=Camera(f_number=32.0))
    by_time = after(scene, by_shutter(scene, scene.camera, wanted=True))
    assert by_time.camera.exposure_time == 3600
    assert by_time.look.exposure + camera_stops(by_time.camera) == pytest.approx(20.0, abs=1e-3)


def test_shutter_and_iso_expose_the_picture_and_trace_nothing():
    scene, asset = scene_of((sphere_mesh(), WHITE))
    engine = Engine(1)
    engine.open(scene, None, asset)
    by_time = scene.model_copy(update={"camera": scene.camera.model_copy(update={"exposure_time": 4.0, "iso": 200.0})})
    assert not engine.apply(by_time, None).restarts
    around = engine.surround(None, clean=True)
    light = np.full((4, 4, 3), 0.3, np.float32)
    same = Finisher().bytes_of(light, Look(exposure=camera_stops(by_time.camera)), Surround())
    assert (Finisher().bytes_of(light, Look(), around) == same).all()
    moved = by_time.camera.model_copy(update={"roll": 5.0})
    assert engine.apply(by_time.model_copy(update={"camera": moved}), None).restarts
    engine.close()


def test_the_lens_blooms_as_brightly_by_shutter_as_by_ev():
    light = np.full((40, 60, 3), 0.01, np.float32)
    light[20, 30] = 900
    look = Look.model_validate({"bloom": {"enabled": True}, "shafts": {"enabled": True}})
    by_ev = Finisher().bytes_of(light, look.model_copy(update={"exposure": 1.5}), Surround())
    assert (Finisher().bytes_of(light, look, Surround(stops=1.5)) == by_ev).all()
    assert metered_exposure(light, "grey") is not None


def test_a_backdrop_is_graded_only_with_the_rest():
    light = np.full((8, 8, 3), 0.3, np.float32)
    look = Look(contrast=Contrast(enabled=True, contrast=1.8))
    cover = np.zeros((4, 4), np.float32)
    cover[:, :2] = 1.0
    apart = graded(light, look, Surround(cover=cover))
    assert apart[0, 0] == pytest.approx(graded(light, look, Surround())[0, 0])
    assert apart[0, -1] == pytest.approx(light[0, -1])


@pytest.mark.parametrize("roll", [30.0, -90.0, 180.0])
def test_a_rolled_camera_renders_what_is_projected(roll):
    """A small ball off the axis lies in the render where the projection puts it, and turns about the middle."""
    camera = Camera(position=(0, 0, 2), target=(0, 0, 0), focal_length=50, f_number=None, roll=roll)
    scene, asset = scene_of((sphere_mesh(0.05), WHITE), camera=camera)
    part = next(iter(scene.parts.values()))
    away = np.array((0.3, 0.1, 0.0))
    scene = scene.model_copy(update={"parts": {"p0": part.model_copy(update={"offset": tuple(away)})}})
    film = traced(scene, asset, 4)
    seen = film.means().alpha
    y, x = (np.array([(seen.sum(axis=a) * (np.arange(seen.shape[1 - a]) + 0.5)).sum() / seen.sum()]) for a in (1, 0))
    (place,), _ = places_in_picture(camera, 1.0, away[None])
    assert (x[0] / film.width, y[0] / film.height) == pytest.approx(place, abs=0.01)
    assert point_at_depth(camera, 1.0, *place, 2.0) == pytest.approx(away, abs=1e-6)
    level = places_in_picture(camera.model_copy(update={"roll": 0.0}), 1.0, away[None])[0][0] - 0.5
    turn = math.degrees(math.atan2(*(place - 0.5)[::-1]) - math.atan2(*level[::-1]))
    assert math.remainder(turn + roll, 360) == pytest.approx(0, abs=1e-6), "a camera turned clockwise sees it turn back"


def test_a_close_up_lens_brings_the_focus_as_near_as_its_power_says():
    camera = Camera(focus_distance=1e6, close_up=4.0)
    assert focused(Scene(), camera).focus_distance == pytest.approx(0.25, rel=1e-5)
    at_a_metre = camera.model_copy(update={"focus_distance": 1.0})
    assert focused(Scene(), at_a_metre).focus_distance == pytest.approx(0.2)
    assert set_distance(camera, 0.2) == pytest.approx(1.0) and set_distance(camera, 3.0) == 1e6
    assert focused(Scene(), Camera()) == Camera()


def followed_scene():
    part = Part(name="Ball", mesh=0, material="m", group="g", offset=(0.1, 0.0, 0.2), size=2.0)
    group = PartGroup(name="G", turn_y=90.0)
    camera = Camera(position=(0, 0, 3), target=(0, 0, 0), focus_distance=0.5)
    return Scene(camera=camera, parts={"p": part}, part_groups={"g": group})


def test_the_focus_follows_a_point_of_a_part_in_its_group_and_the_camera():
    scene = followed_scene()
    point = np.array((0.3, 0.1, -0.2))
    on = followed_point(scene, "p", point)
    follows = scene.camera.model_copy(update={"focus_on": on})
    assert focused(scene, follows).focus_distance == pytest.approx(3.2, abs=1e-6)
    moved = scene.model_copy(update={"part_groups": {"g": PartGroup(name="G", turn_y=90.0, offset=(0, 0, 1.0))}})
    assert focused(moved, follows).focus_distance == pytest.approx(2.2, abs=1e-6)
    nearer = follows.model_copy(update={"position": (0, 0, 2)})
    assert focused(scene, nearer).focus_distance == pytest.approx(2.2, abs=1e-6)


def test_it_follows_a_part_that_moves_at_the_moment_of_the_frame():
    keys = (PartKey(time=0, matrix=(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)),
            PartKey(time=2, matrix=(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 1)))  # fmt: skip
    part = Part(name="Ball", mesh=0, material="m", keys=keys)
    scene = Scene(parts={"p": part}, shutter=Shutter(time=1.0, opens=-0.2, closes=0.2))
    camera = Camera(position=(0, 0, 3), target=(0, 0, 0), focus_on=FollowedFocus(part="p", point=(0, 0, 0)))
    assert focused(scene, camera).focus_distance == pytest.approx(2.5)


def test_what_is_gone_or_behind_the_camera_is_not_followed():
    scene = followed_scene()
    for on in (FollowedFocus(part="gone", point=(0, 0, 0)), FollowedFocus(part="p", point=(-50, 0, 0))):
        assert focused(scene, scene.camera.model_copy(update={"focus_on": on})).focus_distance in (
            0.5,
            pytest.approx(0.5),
        )


def test_the_render_is_sharp_where_the_followed_part_is():
    """Two cards, one behind the other: the edge of that which is followed is the sharper one."""
    steepest = {}
    for followed in ("p0", "p1"):
        on = FollowedFocus(part=followed, point=(0.0, 0.0, 0.0))
        camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=50, f_number=0.7, focus_on=on)
        scene, asset = scene_of((slab_mesh(0.001, 0.1), WHITE), (slab_mesh(0.001, 0.1), WHITE), camera=camera)
        near, far = scene.parts.values()
        parts = {
            "p0": near.model_copy(update={"offset": (-0.12, 0.0, 0.0)}),
            "p1": far.model_copy(update={"offset": (0.2, 0.0, -0.8)}),
        }
        film = traced(scene.model_copy(update={"parts": parts}), asset, 64, side=192)
        row = film.means().alpha[film.height // 2]
        half = film.width // 2
        steepest[followed] = (np.abs(np.diff(row[:half])).max(), np.abs(np.diff(row[half:])).max())
    assert steepest["p0"][0] > 2 * steepest["p1"][0] and steepest["p1"][1] > 2 * steepest["p0"][1]


@pytest.mark.parametrize(("near", "far"), [(0.8, 1.1), (1.1, 0.8), (0.3, 4.0)])
def test_focus_and_f_number_for_two_limits_have_just_those_limits(near, far):
    camera = Camera(focal_length=85, f_number=1.4, focus_distance=9.0)
    distance, f_number = sharp_between(camera, 1.5, near, far)
    found = sharpness(camera.model_copy(update={"focus_distance": distance, "f_number": f_number}), 1.5)
    wanted = sorted((near, far))
    if f_number < 128:
        assert (found.near, found.far) == pytest.approx(wanted, rel=1e-3)
    else:
        assert found.near > wanted[0] and found.far < wanted[1]


def test_one_depth_twice_leaves_the_f_number_and_a_parallel_view_has_no_limits():
    assert sharp_between(Camera(f_number=2.0), 1.5, 0.7, 0.7) == (pytest.approx(0.7), 2.0)
    assert sharp_between(Camera(projection="orthographic"), 1.5, 0.7, 0.9) is None


def test_a_doubt_of_a_followed_focus_is_mended_by_a_distance():
    camera = Camera(position=(0, 0, 2), target=(0, 0, 0), focus_distance=9.0, f_number=2.8, close_up=0.5)
    scene = Scene(camera=camera)
    (doubt, *_) = focus_doubts(focused(scene, camera), 1.5, ((-0.1,) * 3, (0.1,) * 3))
    mended = read_scene(apply_operations(scene.plain(), list(doubt.patch))[0])
    assert focused(mended, mended.camera).focus_distance == pytest.approx(2.0)


def test_another_unit_of_the_asset_carries_shots_and_what_the_focus_follows():
    """A point of a body made here is in metres and grows with it; one of the asset is in the unit of its file."""
    asset = Asset(file=FileRef(sha256="0" * 64, name="a.obj"), name="a", scale=1.0)
    made = Part(name="Ball", material="m", form=BallForm(radius=0.1))
    brought = Part(name="Cup", mesh=0, material="m")
    for part in ("made", "brought"):
        on = FollowedFocus(part=part, point=(0.0, 0.0, 0.1))
        camera = Camera(position=(0, 0, 3), target=(0, 0, 0), focus_on=on)
        scene = Scene(asset=asset, parts={"made": made, "brought": brought}, camera=camera)
        scene = scene.model_copy(update={"shots": {"a": Shot(name="A", camera=camera)}})
        before = focused(scene, camera).focus_distance
        after_ = rescaled(scene, asset, 0.01)
        assert after_.shots["a"].camera == after_.camera
        assert focused(after_, after_.camera).focus_distance == pytest.approx(before / 100, rel=1e-5)


def test_a_rolled_camera_goes_out_rolled():
    matrix = looking((0, 0, 2), (0, 0, 0), 90.0)
    assert matrix[:3, 0] == pytest.approx((0, -1, 0), abs=1e-9) and matrix[:3, 1] == pytest.approx((1, 0, 0), abs=1e-9)
