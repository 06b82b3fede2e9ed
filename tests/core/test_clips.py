"""Clips of an asset on the time line: trimmed, played again, to and fro, faster; crossed with skins and the shutter."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.assets.beginning import begun
from lantern.assets.reading import import_asset
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.motion.clips import PlayedShutter, played
from lantern.motion.moving import Mover
from lantern.motion.poses import part_poses
from lantern.scene.document import Scene, Shutter
from lantern.scene.model import FileRef
from lantern.scene.motion import ClipPlay, Motion, Turntable
from lantern.scene.placing import Places
from tests.core.test_gltf_motion import Animated
from tests.core.test_gltf_skins import Skinned


def play(first=1.0, last=2.0, seconds=10.0, **more):
    return ClipPlay(name="Clip", first=first, last=last, seconds=seconds, **more)


def moment(time, *plays, now=None):
    """The moment of the clip at one of the time line, the frame being of `now`."""
    shutter = played(Shutter(time=time if now is None else now), {str(n): each for n, each in enumerate(plays)})
    return shutter.of_clip(time) if isinstance(shutter, PlayedShutter) else time


@pytest.mark.parametrize(
    ("then", "time", "found"),
    [
        ("holds", -1, 1), ("holds", 0.25, 1.25), ("holds", 1, 2), ("holds", 3, 2),
        ("again", 0.25, 1.25), ("again", 1.25, 1.25), ("again", 9.5, 1.5), ("again", 10, 2), ("again", 11, 2),
        ("back", 0.25, 1.25), ("back", 1.25, 1.75), ("back", 2.25, 1.25), ("back", 10, 1), ("back", 12, 1),
    ],
)  # fmt: skip
def test_a_clip_rests_at_its_end_begins_anew_or_goes_back(then, time, found):
    assert moment(time, play(then=then)) == pytest.approx(found, abs=1e-9)


def test_a_clip_is_sped_turned_round_and_begins_late():
    assert moment(0.25, play(speed=2.0)) == pytest.approx(1.5)
    assert moment(0.25, play(2.0, 1.0)) == pytest.approx(1.75)
    assert moment(3.25, play(start=3.0)) == pytest.approx(1.25) and moment(2.0, play(start=3.0)) == 1.0
    assert moment(5.0, play(1.5, 1.5)) == 1.5, "a still of the clip"
    soft = [moment(t, play(then="holds", seconds=1.0, pace="soft")) for t in (0.1, 0.5, 0.9)]
    assert soft[0] < 1.1 and soft[1] == pytest.approx(1.5) and soft[2] > 1.9


def test_of_several_plays_the_one_counts_that_has_begun_last():
    opens, shuts = play(0.0, 1.0, then="holds"), play(3.0, 4.0, start=5.0, then="holds")
    assert [moment(t, opens, shuts) for t in (0.5, 4.0, 5.5, 9.0)] == pytest.approx([0.5, 1.0, 3.5, 4.0])
    assert moment(5.5, opens, shuts.model_copy(update={"enabled": False})) == 1.0
    assert moment(7.0) == 7.0, "the clip's own time"


@given(st.floats(-5, 20), st.floats(0.01, 8), st.sampled_from(["holds", "again", "back"]))
def test_no_moment_lies_outside_of_what_was_trimmed(time, speed, then):
    assert 1.0 - 1e-9 <= moment(time, play(speed=speed, then=then)) <= 2.0 + 1e-9


def test_an_open_shutter_sees_no_jump_where_the_clip_begins_anew():
    """The frame at 2.0 begins its third round; just before, the shutter sees the end rest where the round begins."""
    assert [moment(t, play(), now=2.0) for t in (1.98, 2.0, 2.02)] == pytest.approx([1.0, 1.0, 1.02])
    assert [moment(t, play(), now=1.99) for t in (1.98, 2.0, 2.02)] == pytest.approx([1.98, 2.0, 2.0])


def opened(tmp_path, file, *moves, **shutter):
    """An engine with a file whose clip is played, and the document."""
    path = file.written(tmp_path)
    engine = Engine(1)
    asset = import_asset(path)
    scene = begun(asset, FileRef(sha256="0" * 64, name="moving.glb"), np.zeros(3), np.ones(3))
    scene = scene.model_copy(
        update={
            "motion": Motion(moves={str(n): move for n, move in enumerate(moves)}),
            "shutter": Shutter(**shutter),
        }
    )
    engine.open(scene, lambda _: path, asset)
    return engine, scene, path


def sliding():
    """A node that goes two to the right in two seconds."""
    return Animated().channel(0, "translation", [0, 2], [[0, 0, 0], [2, 0, 0]])


def place(scene: Scene, step=0):
    shown = Mover().moved(scene)
    (part,) = shown.parts.values()
    return part_poses(part, shown.shutter, Places.of(shown))[step][:, 3]


def test_parts_go_where_the_clip_has_them_then(tmp_path):
    engine, scene, _ = opened(tmp_path, sliding(), play(0.5, 1.5, speed=2.0), time=0.25)
    assert place(scene) == pytest.approx([1.0, 0, 0])
    engine.close()
    assert place(scene.model_copy(update={"motion": Motion()})) == pytest.approx([0.25, 0, 0])


def test_a_clip_and_a_turntable_are_both_seen(tmp_path):
    turn = Turntable(name="Turn", turns="asset", degrees=90.0, seconds=1.0)
    engine, scene, _ = opened(tmp_path, sliding(), play(0.0, 2.0), turn, time=1.0)
    assert place(scene) == pytest.approx([0, 0, -1], abs=1e-9)
    engine.close()


def test_a_part_is_blurred_as_fast_as_the_clip_is_played(tmp_path):
    engine, scene, _ = opened(tmp_path, sliding(), play(0.0, 2.0, speed=4.0), time=0.2, opens=0.0, closes=0.1)
    assert place(scene, -1)[0] - place(scene, 0)[0] == pytest.approx(0.4)
    engine.close()


def test_a_skin_is_bent_as_the_clip_has_it_then(tmp_path):
    """The bounds that the engine has built, for a file whose upper edge goes up by two in its first second."""
    file = Skinned().channel(2, "translation", [0, 1], [[0, 1, 0], [0, 3, 0]])
    engine, scene, path = opened(tmp_path, file, play(0.0, 1.0, speed=0.5, then="holds"), time=1.0)
    assert engine.compiled.bounds()[1][1] == pytest.approx(2.0)
    later = scene.model_copy(update={"shutter": Shutter(time=1.5)})
    assert engine.apply(later, lambda _: path).restarts
    assert engine.compiled.bounds()[1][1] == pytest.approx(2.5)
    quick = play(0.0, 1.0, speed=0.6, then="holds")
    engine.apply(later.model_copy(update={"motion": Motion(moves={"0": quick})}), lambda _: path)
    assert engine.compiled.bounds()[1][1] == pytest.approx(2.8), "the same moment of another play"
    engine.close()


def picture(engine):
    film = Film(48, 48)
    engine.trace(film, 4)
    return engine.means(film).radiance


def test_a_skin_is_bent_in_place_and_shows_what_one_that_was_built_there_shows(tmp_path):
    """There and back, with the shutter open and shut: trees are fitted, and built only where there are more poses."""
    file = Skinned().channel(2, "translation", [0, 1], [[0, 1, 0], [0, 3, 0]])
    engine, scene, path = opened(tmp_path, file, time=0.1)
    camera = scene.camera.model_copy(update={"position": (0.5, 1.5, 6.0), "target": (0.5, 1.5, 0.0)})
    scene = scene.model_copy(update={"camera": camera})
    for trees, moment in ((1, Shutter(time=0.9)), (1, Shutter(time=0.3)), (2, Shutter(time=0.5, closes=0.2)),
                          (2, Shutter(time=0.2, closes=0.2)), (3, Shutter(time=0.9))):  # fmt: skip
        there = scene.model_copy(update={"shutter": moment})
        assert not engine.apply(there, lambda _: path).recompiled
        assert (engine.compile_counts.full, engine.compile_counts.mesh_trees) == (1, trees)
        fresh = Engine(1)
        fresh.open(there, lambda _: path)
        assert np.allclose(picture(engine), picture(fresh), atol=1e-5)
        fresh.close()
    engine.close()


def test_a_skin_that_glows_lights_from_where_it_is(tmp_path):
    file = Skinned().channel(2, "translation", [0, 1], [[0, 1, 0], [0, 3, 0]])
    engine, scene, path = opened(tmp_path, file, time=0.0)
    [key] = scene.materials
    lamp = scene.materials[key].model_copy(update={"emission_luminance": 100.0})
    scene = scene.model_copy(update={"materials": {key: lamp}})
    engine.apply(scene, lambda _: path)
    later = scene.model_copy(update={"shutter": Shutter(time=1.0)})
    engine.apply(later, lambda _: path)
    fresh = Engine(1)
    fresh.open(later, lambda _: path)
    assert np.allclose(picture(engine), picture(fresh), rtol=1e-4)
    fresh.close()
    engine.close()
