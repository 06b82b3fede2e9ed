"""Questions about the time line, with a real engine behind a pane."""

import numpy as np
import pytest

from lantern.scene.conditions import conditions_of
from lantern.scene.document import PartKey, Scene, Shot
from lantern.scene.motion import ValueKey
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.surroundings import Sky, SunPlace
from server.host.answers import answer
from server.protocol.motion import (
    MakeCameraMove,
    MakeClip,
    MakeDay,
    MakeExploded,
    MakeRelight,
    MakeSequence,
    MakeTravel,
    MakeTurntable,
    PasteKeys,
)
from tests.core.test_orders import furnished
from tests.server.panes import opened


@pytest.fixture
def line():
    """A pane on a document of two parts and a shot."""
    view, engine = opened([])
    scene = furnished()
    motion = scene.motion.model_copy(update={"seconds": 6.0})
    shots = {**scene.shots, "other": Shot(name="Other", camera=scene.camera)}
    engine.open(scene.model_copy(update={"motion": motion, "shots": shots}), None)
    view.take_state(view.state)
    yield view, engine
    engine.close()


def asked(line, question, **more):
    view, engine = line
    kinds = {"make_turntable": MakeTurntable, "make_exploded": MakeExploded, "make_travel": MakeTravel,
             "make_day": MakeDay, "make_sequence": MakeSequence, "make_relight": MakeRelight,
             "make_clip": MakeClip, "make_camera_move": MakeCameraMove, "paste_keys": PasteKeys}  # fmt: skip
    return answer(kinds[question](type=question, pane=0, request="r", **more), engine, view, None).made


def put(line, made):
    _, engine = line
    engine.apply(read_scene(apply_operations(engine.scene.plain(), made.patch)[0]), None)
    return engine.scene.motion.moves[made.key]


@pytest.mark.parametrize("turns", ["camera", "asset", "light"])
def test_a_turntable_takes_the_whole_time_and_begins_where_things_are(line, turns):
    move = put(line, asked(line, "make_turntable", turns=turns))
    assert (move.turns, move.degrees, move.start, move.seconds) == (turns, 360.0, 0.0, 6.0)
    view, engine = line
    assert engine.shown.camera == engine.scene.camera and engine.scene.shutter.time == 0.0
    if turns == "camera":
        assert move.pivot == pytest.approx(view.camera.target)


def test_a_second_exploded_view_starts_from_where_parts_rest(line):
    """Not from where the first has put them."""
    first = put(line, asked(line, "make_exploded", along="y"))
    _, engine = line
    assert engine.scene.shutter.time == 3.0 and engine.shown.parts != engine.scene.parts, "it is seen half way"
    second = asked(line, "make_exploded", along="y")
    assert second.patch[0]["value"]["ways"] == {key: list(way) for key, way in first.ways.items()}
    assert engine.shown.parts != engine.scene.parts, "and what was shown is shown again"


def test_some_parts_alone_can_leave(line):
    _, engine = line
    keys = list(engine.scene.parts)
    assert asked(line, "make_exploded", along="x", parts=keys[:1]) is None, "one alone leaves nobody"
    assert set(put(line, asked(line, "make_exploded", along="x", parts=keys[:2])).ways) == set(keys[:2])


def test_the_camera_goes_between_two_shots_that_are_there(line):
    _, engine = line
    first, last = list(engine.scene.shots)[:2]
    move = put(line, asked(line, "make_travel", first=first, last=last))
    assert (move.first, move.last) == (first, last)
    assert asked(line, "make_travel", first=first, last="gone") is None


def test_shots_follow_one_another_and_the_time_line_is_as_long_as_they_are(line):
    _, engine = line
    shots = list(engine.scene.shots)[:2]
    put(line, asked(line, "make_sequence", shots=shots, seconds=1.5, dissolve=4.0))
    moves = list(engine.scene.motion.moves.values())
    assert [(move.first, move.last, move.start, move.seconds, move.dissolve) for move in moves] == [
        (shots[0], shots[0], 0.0, 1.5, 0.0), (shots[1], shots[1], 1.5, 1.5, 1.5),
    ]  # fmt: skip
    assert engine.scene.motion.seconds == 3.0 and moves[1].name == engine.scene.shots[shots[1]].name
    assert asked(line, "make_sequence", shots=[shots[0], "gone"]) is None


def test_the_sun_of_a_place_goes_through_its_day(line):
    _, engine = line
    assert asked(line, "make_day") is None, "there is no sky"
    sky = Sky(enabled=True, place=SunPlace(latitude=50.0, longitude=10.0))
    engine.apply(engine.scene.model_copy(update={"sky": sky}), None)
    put(line, asked(line, "make_day"))
    hours = []
    for time in (0.0, 3.0, 6.0):
        shutter = engine.scene.shutter.model_copy(update={"time": time})
        change = engine.apply(engine.scene.model_copy(update={"shutter": shutter}), None)
        hours.append(engine.shown.sky.place.hour)
        assert change.restarts or time == 0.0, "another hour is other light"
    assert hours == [5.0, 13.0, 21.0]


def test_where_nothing_is_nothing_moves(line):
    _, engine = line
    engine.open(Scene(), None)
    assert asked(line, "make_turntable", turns="asset") is None
    assert asked(line, "make_exploded", along="out") is None


def test_light_goes_between_two_conditions_that_are_there(line):
    _, engine = line
    both = {**engine.scene.conditions, "noon": conditions_of(engine.scene, "Noon")}
    engine.apply(engine.scene.model_copy(update={"conditions": both}), None)
    move = put(line, asked(line, "make_relight", first="noon", last="evening"))
    assert (move.name, move.first, move.last, move.seconds) == ("Noon to Evening", "noon", "evening", 6.0)
    assert asked(line, "make_relight", first="noon", last="gone") is None


def test_the_clip_of_a_file_is_played_whole(line):
    _, engine = line
    assert asked(line, "make_clip") is None, "nothing in it moves"
    key, part = next(iter(engine.scene.parts.items()))
    keys = tuple(PartKey(time=time, matrix=part.matrix) for time in (0.5, 2.5))
    moving = {**engine.scene.parts, key: part.model_copy(update={"keys": keys})}
    engine.apply(engine.scene.model_copy(update={"parts": moving}), None)
    move = put(line, asked(line, "make_clip"))
    assert (move.name, move.first, move.last, move.seconds, move.then) == ("Clip", 0.5, 2.5, 6.0, "again")


def test_keys_that_do_not_fit_are_not_laid_in(line):
    view, engine = line
    asks = PasteKeys(type="paste_keys", pane=0, request="r", move="none", keys=(ValueKey(time=0.0, value=1.0),))
    assert "gone" in answer(asks, engine, view, None).problem


@pytest.mark.parametrize(
    ("way", "nearer", "higher"), [("push", 1.6, 0), ("pull", 1 / 1.6, 0), ("rise", 1, 1), ("around", 1, 0)]
)
def test_a_camera_moves_from_where_it_is_towards_what_it_looks_at_or_about_it(line, way, nearer, higher):
    view, engine = line
    before, camera = len(engine.scene.shots), view.camera
    move = put(line, asked(line, "make_camera_move", way=way))
    first, last = (engine.scene.shots[key].camera for key in (move.first, move.last))
    assert first == camera and last.target == first.target and move.seconds == 6.0
    away, goes = (np.subtract(camera.position, camera.target) for camera in (first, last))
    assert np.linalg.norm(away) / np.linalg.norm(goes) == pytest.approx(nearer)
    assert np.sign(round(float(goes[1] / np.linalg.norm(goes) - away[1] / np.linalg.norm(away)), 6)) == higher
    assert len(engine.scene.shots) == before + 1, "it begins at the shot that has this camera already"
