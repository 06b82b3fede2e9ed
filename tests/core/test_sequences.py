"""Shots one after the other: cuts, dissolves, and what the shutter sees of them."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.motion.cuts import on_screen
from lantern.motion.dissolving import Second, second_of
from lantern.motion.moving import Mover
from lantern.scene.document import Shot
from lantern.scene.motion import Motion, Travel
from lantern.scene.movements import sequence
from tests.core.test_planning import scene as ball_scene


def shots():
    camera = ball_scene().camera
    near = camera.model_copy(update={"position": (0, 0.1, 0.5)})
    above = camera.model_copy(update={"position": (0, 0.9, 0.1)})
    return {"far": Shot(name="Far", camera=camera), "near": Shot(name="Near", camera=near),
            "above": Shot(name="Above", camera=above)}  # fmt: skip


def at(time, moves=None, dissolve=0.0, **shutter):
    """Three shots of two seconds each, at a moment."""
    scene = ball_scene()
    if moves is None:
        moves = sequence({key: shot.name for key, shot in shots().items()}, 2.0, dissolve)
    told = {f"move-{i}": move for i, move in enumerate(moves)}
    return scene.model_copy(
        update={
            "shots": shots(),
            "motion": Motion(seconds=6, moves=told),
            "shutter": scene.shutter.model_copy(update={"time": time, **shutter}),
        }
    )


def camera_at(time, **more):
    return Mover().moved(at(time, **more)).camera


@pytest.mark.parametrize(
    ("time", "shot"), [(0.0, "far"), (1.96, "far"), (2.0, "near"), (3.99, "near"), (4.0, "above"), (60.0, "above")]
)
def test_each_shot_has_its_time(time, shot):
    assert camera_at(time) == shots()[shot].camera


def test_the_order_in_the_list_does_not_matter_but_for_what_begins_together():
    moves = sequence({"far": "Far", "near": "Near"}, 2.0, 0.0)
    assert camera_at(1.0, moves=moves[::-1]) == shots()["far"].camera
    assert camera_at(3.0, moves=moves[::-1]) == shots()["near"].camera
    late = [moves[1], Travel(name="Also", first="above", last="above", start=2.0, seconds=1.0)]
    assert camera_at(3.0, moves=late) == shots()["above"].camera
    assert camera_at(0.0, moves=late) == shots()["above"].camera, "before all, the first that comes"


def test_what_is_off_or_gone_has_no_camera():
    moves = {f"m{i}": move for i, move in enumerate(sequence({"far": "Far", "gone": "Gone", "near": "Near"}, 2.0, 0.0))}
    assert on_screen(moves, shots(), 3.0) == "m0"
    moves["m0"] = moves["m0"].model_copy(update={"enabled": False})
    assert on_screen(moves, shots(), 0.0) == "m2" and on_screen({}, shots(), 0.0) is None


def test_an_open_shutter_sees_no_cut():
    for time, shot in ((1.99, "far"), (2.0, "near")):
        camera = camera_at(time, opens=-0.05, closes=0.05)
        assert camera.position == shots()[shot].camera.position and camera.keys == ()


def test_a_dissolve_begins_with_the_shot_before_and_ends_with_its_own():
    assert second_of(at(1.99, dissolve=0.5)) is None and second_of(at(2.5, dissolve=0.5)) is None
    first, half = second_of(at(2.0, dissolve=0.5)), second_of(at(2.25, dissolve=0.5))
    assert first == Second(shots()["far"].camera, 1.0) and half.share == pytest.approx(0.5)
    assert second_of(at(0.0, dissolve=0.5)) is None, "nothing was there before the first"
    assert second_of(at(2.25)) is None, "a cut is no dissolve"


@pytest.mark.parametrize("share", [0.0625, 0.5, 0.9])
def test_samples_are_shared_as_the_dissolve_says_however_many_there_are(share):
    second = Second(shots()["far"].camera, share)
    own = np.array([second.has(sample) for sample in range(1024)])
    for count in (8, 64, 1024):
        assert abs(own[:count].sum() - share * count) <= 2
    for sample in (0, 7, 100):
        later = second.alike(sample)
        assert (own[sample:later] == own[sample]).all() and own[later] != own[sample]


def light(scene, samples, split=None):
    engine = Engine(2)
    engine.open(scene, None)
    film = Film(48, 32)
    for count in split or [samples]:
        engine.trace(film, count)
    engine.close()
    return film


def test_a_dissolve_is_the_light_of_both_and_the_same_however_it_is_split():
    far, near = (light(at(time), 256).radiance() for time in (1.0, 3.0))
    half = light(at(2.25, dissolve=1.0), 256)
    exact = 0.75 * far + 0.25 * near
    assert np.abs(half.radiance() - exact).mean() < 0.04 * exact.mean(), "the noise of so many samples"
    assert np.abs(half.radiance() - near).mean() > 0.1 * exact.mean()
    again = light(at(2.25, dissolve=1.0), 256, split=[1, 2, 3, 5, 100, 256])
    assert again.rows.tobytes() == half.rows.tobytes()


def test_another_moment_of_a_dissolve_is_another_picture_though_no_camera_moves():
    engine = Engine(2)
    engine.open(at(2.25, dissolve=1.0), None)
    assert engine.apply(at(2.5, dissolve=1.0), None).restarts
    assert engine.apply(at(2.5, dissolve=2.0), None).restarts, "it takes longer now"
    assert not engine.apply(at(2.5, dissolve=2.0), None).restarts
    named = at(2.5, dissolve=2.0)
    moves = {key: move.model_copy(update={"name": "Other"}) for key, move in named.motion.moves.items()}
    other = named.model_copy(update={"motion": named.motion.model_copy(update={"moves": moves})})
    assert not engine.apply(other, None).restarts, "a name is not seen"
    engine.close()
