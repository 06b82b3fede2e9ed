"""The document at a moment: keys, turntables, exploded views, travels; and crossed with placement, groups, shutters."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.motion.moving import Mover, bezier, value_at
from lantern.motion.pacing import paced
from lantern.motion.poses import camera_places, part_poses
from lantern.scene.document import Camera, Part, Scene, Shot, Shutter
from lantern.scene.forms import BoxForm
from lantern.scene.lights import PointLight
from lantern.scene.motion import PACES, Exploded, Keyed, Motion, Travel, Turntable, ValueKey
from lantern.scene.movements import exploded, placed_move, turntable_about, without_parts
from lantern.scene.placed import PartGroup
from lantern.scene.placing import Places
from tests.core.test_orders import furnished


def at(scene, time, opens=0.0, closes=0.0):
    """The document at a moment."""
    return Mover().moved(scene.model_copy(update={"shutter": Shutter(time=time, opens=opens, closes=closes)}))


def with_moves(scene, **moves):
    return scene.model_copy(update={"motion": Motion(moves=moves)})


def stands(scene, part, step=0):
    """Where the origin of a part is."""
    return part_poses(scene.parts[part], scene.shutter, Places.of(scene))[step][:, 3]


def keyed(path, *keys):
    return Keyed(name="Keys", path=path, keys=tuple(ValueKey(time=t, value=v, to_next=n) for t, v, n in keys))


def test_a_document_in_which_nothing_moves_is_itself():
    scene = furnished()
    assert at(scene, 0.0).model_copy(update={"shutter": scene.shutter}) == scene
    moves = {"turn": Turntable(name="Off", enabled=False)}
    still = with_moves(scene, **moves)
    assert Mover().moved(still) is still


@pytest.mark.parametrize("pace", list(PACES))
def test_every_pace_begins_and_ends_and_never_goes_back(pace):
    shares = [paced(u, pace) for u in np.linspace(-0.5, 1.5, 101)]
    assert shares[0] == 0.0 and shares[-1] == 1.0 and all(b >= a for a, b in pairwise(shares))


def test_a_curve_between_keys_is_that_of_its_standard():
    """`ease` of CSS Easing Functions Level 1 is (0.25, 0.1, 0.25, 1); its values, from the definition in steps of t."""
    curve = (0.25, 0.1, 0.25, 1.0)
    for t in np.linspace(0, 1, 21):
        x = 3 * (1 - t) ** 2 * t * 0.25 + 3 * (1 - t) * t * t * 0.25 + t**3
        y = 3 * (1 - t) ** 2 * t * 0.1 + 3 * (1 - t) * t * t * 1.0 + t**3
        assert bezier(curve, x) == pytest.approx(y, abs=1e-6)
    assert bezier((0.0, 0.0, 1.0, 1.0), 0.3) == pytest.approx(0.3, abs=1e-9)


unit = st.floats(0, 1)


@given(st.tuples(unit, unit, unit, unit), st.floats(0.001, 0.999))
def test_no_curve_leaves_the_values_of_its_keys(curve, share):
    keys = (ValueKey(time=1.0, value=-3.0, to_next=curve), ValueKey(time=2.0, value=5.0))
    assert -3.0 - 1e-9 <= value_at(keys, [1.0, 2.0], 1.0 + share) <= 5.0 + 1e-9


def test_keys_hold_go_straight_and_switch():
    scene = with_moves(
        furnished(),
        exposure=keyed("/look/exposure", (0.0, 0.0, "line"), (2.0, 4.0, "hold"), (3.0, -1.0, "line")),
        colour=keyed("/materials/ink/base_color", (0.0, (0.0, 0.0, 0.0), "line"), (1.0, (0.2, 0.4, 0.8), "line")),
        switch=keyed("/parts/strap/visible", (0.0, True, "line"), (1.0, False, "line")),
        gone=keyed("/parts/nobody/size", (0.0, 1.0, "line")),
        wrong=keyed("/look/exposure/deeper", (0.0, 1.0, "line")),
        unlike=keyed("/materials/ink/base_color", (0.0, 1.0, "line")),
    )
    moments = {t: at(scene, t) for t in (-1.0, 0.5, 1.0, 2.5, 3.0, 9.0)}
    assert [m.look.exposure for m in moments.values()] == [0.0, 1.0, 2.0, 4.0, -1.0, -1.0]
    assert moments[0.5].materials["ink"].base_color == pytest.approx((0.1, 0.2, 0.4))
    assert moments[0.5].parts["strap"].visible and not moments[1.0].parts["strap"].visible


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("/parts/strap", 3.0), ("/asset", 1.0), ("/layout", 2.0), ("/camera/focal_length", -5.0), ("/print/width", 3.0),
        ("/camera/position/0", True), ("/camera/position/7", 1.0), ("/materials/ink/base_color", (2.0, 0.0, 0.0)),
        ("/materials/ink/base_color/0", 7.0), ("/camera/blades", 400.0), ("/shots", 1.0),
    ],
)  # fmt: skip
def test_what_a_place_does_not_take_moves_nothing(path, value):
    """A key comes as any number: the document stays one that can be drawn."""
    scene = with_moves(furnished(), k=keyed(path, (0.0, value, "line")))
    after = at(scene, 1.0)
    assert after == scene.model_copy(update={"shutter": after.shutter}) and Scene.model_validate(after.plain())


def test_a_number_of_a_place_a_count_and_what_was_off_can_move():
    scene = with_moves(
        furnished(),
        x=keyed("/camera/position/0", (0.0, 1.0, "line"), (1.0, 3.0, "line")),
        n=keyed("/camera/blades", (0.0, 5.0, "line"), (1.0, 9.0, "line")),
        f=keyed("/camera/f_number", (0.0, 2.0, "line"), (1.0, 4.0, "line")),
    )
    half = at(scene, 0.5).camera
    assert (half.position[0], half.blades, half.f_number) == (2.0, 7, 3.0)
    assert half.position[1:] == scene.camera.position[1:] and scene.camera.f_number is None


def test_what_cannot_be_keyed_is_refused():
    for path in ("/motion/seconds", "/shutter/time", "/schema_version", "look", "/"):
        with pytest.raises(ValidationError):
            keyed(path, (0.0, 1.0, "line"))
    with pytest.raises(ValidationError, match="rise"):
        keyed("/look/exposure", (1.0, 1.0, "line"), (1.0, 2.0, "line"))
    with pytest.raises(ValidationError, match="one kind"):
        keyed("/look/exposure", (1.0, 1.0, "line"), (2.0, (1.0, 2.0), "line"))


def test_a_turntable_of_the_asset_is_one_of_the_camera_the_other_way_round():
    """What the camera sees of the asset is the same; the set stays with whoever stays."""
    scene = furnished()
    part = next(iter(scene.parts))
    pivot = (0.3, 0.0, -0.2)
    asset = at(with_moves(scene, t=Turntable(name="A", turns="asset", degrees=90.0, seconds=1.0, pivot=pivot)), 1.0)
    camera = at(with_moves(scene, t=Turntable(name="C", turns="camera", degrees=-90.0, seconds=1.0, pivot=pivot)), 1.0)
    back = np.array([[0, 0, -1], [0, 1, 0], [1, 0, 0]], float)  # a quarter turn back about +Y
    there = back @ (stands(asset, part) - np.array(pivot))
    assert there == pytest.approx(stands(scene, part) - np.array(pivot), abs=1e-9)
    seen = [np.array(c.position) - np.array(pivot) for c in (scene.camera, camera.camera)]
    assert back @ seen[0] == pytest.approx(seen[1], abs=1e-9)


def test_a_whole_turn_closes_and_half_of_the_camera_is_on_the_other_side():
    scene = furnished()
    move = turntable_about(((-1, 0, -1), (1, 2, 1)), "camera", scene.camera.target)
    assert move.pivot == pytest.approx(scene.camera.target)
    turned = with_moves(scene, t=move)
    assert at(turned, 4.0).camera == at(turned, 0.0).camera == scene.camera
    half = at(turned, 2.0).camera
    middle = (np.array(half.position) + np.array(scene.camera.position)) / 2
    assert middle[[0, 2]] == pytest.approx(np.array(scene.camera.target)[[0, 2]])
    assert math.dist(half.position, half.target) == pytest.approx(math.dist(scene.camera.position, scene.camera.target))


def test_what_moves_is_kept_where_it_was_put_by_hand_and_in_its_group():
    part = Part(name="Box", material="paint", form=BoxForm(), matrix=(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0), group="pair",
                offset=(0.5, 0, 0), turn_y=30.0)  # fmt: skip
    group = PartGroup(name="Pair", offset=(0, 1, 0), turn_y=60.0)
    scene = Scene(parts={"box": part}, part_groups={"pair": group})
    before = stands(scene, "box")
    far = at(with_moves(scene, x=Exploded(name="X", ways={"box": (0, 0, 2)}, seconds=1.0)), 1.0)
    assert stands(far, "box") == pytest.approx(before + np.array((0, 0, 2)), abs=1e-9), "its way is one of the scene"
    assert far.parts["box"].offset == (0.5, 0, 0), "its own fields say what was done by hand"
    grouped = at(
        with_moves(scene, g=keyed("/part_groups/pair/offset", (0, (0, 1, 0), "line"), (1, (0, 3, 0), "line"))), 1
    )
    assert stands(grouped, "box") == pytest.approx(before + np.array((0, 2, 0)), abs=1e-9)


def test_while_the_shutter_is_open_turns_are_arcs():
    scene = with_moves(furnished(), t=Turntable(name="A", turns="asset", degrees=360.0, seconds=1.0, pivot=(5, 0, 0)))
    open_ = at(scene, 0.25, opens=-0.1, closes=0.1)
    part = next(iter(scene.parts))
    radius = np.linalg.norm((stands(furnished(), part) - (5, 0, 0))[[0, 2]])
    poses = part_poses(open_.parts[part], open_.shutter, Places.of(open_))
    reached = np.linalg.norm((poses[:, :, 3] - (5, 0, 0))[:, [0, 2]], axis=1)
    assert len(poses) >= 9 and np.abs(reached / radius - 1).max() < 1e-3
    ways = np.diff(np.unwrap(np.arctan2(poses[:, 0, 3] - 5, poses[:, 2, 3])))
    assert ways == pytest.approx(ways[0], abs=2e-3), "at an even rate"
    camera = with_moves(furnished(), t=Turntable(name="C", degrees=360.0, seconds=1.0))
    places = camera_places(at(camera, 0.25, opens=-0.1, closes=0.1).camera, Shutter(time=0.25, opens=-0.1, closes=0.1))
    assert len(places) >= 9 and len({round(float(np.linalg.norm(p[[0, 2]])), 3) for p, _ in places}) == 1


def test_parts_leave_one_after_the_other_and_come_together_again():
    boxes = {f"p{k}": ((0, k, 0), (1, k + 1, 1)) for k in range(4)}
    move = exploded(boxes, "y").model_copy(update={"seconds": 4.0, "stagger": 1.0, "returns": True})
    part = Part(name="P", material="paint", matrix=(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0))
    scene = with_moves(Scene(parts=dict.fromkeys(boxes, part)), x=move)
    gone = [[stands(at(scene, t), key)[1] for key in boxes] for t in (0.0, 0.75, 2.0, 4.0)]
    assert gone[0] == gone[3] == [0, 0, 0, 0]
    assert gone[1][1] > 0 and gone[1][3] == 0, "the last has not left yet"
    assert gone[2] == pytest.approx([way[1] for way in move.ways.values()])


@pytest.mark.parametrize("along", ["out", "x", "y", "z"])
def test_parts_that_have_left_are_in_nobodys_way(along):
    """Boxes that touch, overlap, and lie inside one another."""
    boxes = {"base": ((-1, 0, -1), (1, 1, 1)), "body": ((-0.8, 0.9, -0.8), (0.8, 3, 0.8)),
             "inner": ((-0.4, 1, -0.4), (0.4, 2.2, 0.4)), "lid": ((-0.9, 3, -0.9), (0.9, 3.4, 0.9)),
             "handle": ((0.7, 1, -0.1), (1.4, 2, 0.1))}  # fmt: skip
    ways = exploded(boxes, along).ways
    there = [(np.array(boxes[k][0]) + ways[k], np.array(boxes[k][1]) + ways[k]) for k in boxes]
    for i, (low, high) in enumerate(there):
        for other_low, other_high in there[i + 1 :]:
            assert not ((low < other_high) & (other_low < high)).all()


def test_from_shot_to_shot_on_an_arc_with_the_lens():
    first = Camera(position=(0, 0, 4), target=(0, 0, 0), focal_length=35.0)
    last = Camera(position=(1, 0, 0), target=(0, 0, 0), focal_length=140.0)
    shots = {"a": Shot(name="A", camera=first), "b": Shot(name="B", camera=last)}
    scene = with_moves(Scene(shots=shots), t=Travel(name="To B", first="a", last="b", seconds=2.0))
    assert at(scene, 0.0).camera.position == pytest.approx(first.position)
    assert at(scene, 2.0).camera.position == pytest.approx(last.position, abs=1e-9)
    half = at(scene, 1.0).camera
    assert half.focal_length == pytest.approx(70.0) and math.dist(half.position, (0, 0, 0)) == pytest.approx(2.0)
    assert half.position[0] == pytest.approx(half.position[2]), "half way around"
    gone = with_moves(Scene(), t=Travel(name="To B", first="a", last="b"))
    assert at(gone, 1.0).camera == Scene().camera


def test_the_light_turns_with_its_environment():
    light = PointLight(name="Bulb", position=(1, 2, 0))
    scene = with_moves(Scene(lights={"l": light}), t=Turntable(name="L", turns="light", degrees=90.0, seconds=1.0))
    after = at(scene, 1.0)
    assert after.lights["l"].position == pytest.approx((0, 2, -1), abs=1e-6) and after.environment.rotation == 90.0


def test_moves_follow_the_asset_in_size_and_leave_with_it():
    way = Exploded(name="X", ways={"p": (0.0, 1.0, 0.0)})
    turn, exposure = Turntable(name="T", pivot=(1, 0, 0)), keyed("/look/exposure", (0.0, 1.0, "line"))
    double = lambda point: tuple(2 * p for p in point)  # noqa: E731
    assert placed_move(way, double, 2.0).ways["p"] == (0.0, 2.0, 0.0)
    assert placed_move(turn, double, 2.0).pivot == (2.0, 0.0, 0.0) and placed_move(exposure, double, 2.0) is exposure
    size = keyed("/parts/p/size", (0.0, 1.0, "line"))
    assert list(without_parts({"x": way, "t": turn, "e": exposure, "s": size})) == ["t", "e"]


def test_the_engine_shows_the_moment_and_keeps_the_document():
    """A frame of the time line is the picture of a document in which the same was done by hand."""
    scene = furnished()
    moving = with_moves(
        scene,
        x=Exploded(name="X", ways={"strap": (0.0, 0.05, 0.0)}, seconds=1.0),
        e=keyed("/materials/ink/base_color", (0.0, (0.0, 0.0, 0.0), "line"), (1.0, (0.5, 0.0, 0.0), "line")),
    ).model_copy(update={"shutter": Shutter(time=0.5)})
    strap = scene.parts["strap"].model_copy(update={"offset": (0.0, 0.025, 0.0)})
    ink = scene.materials["ink"].model_copy(update={"base_color": (0.25, 0.0, 0.0)})
    by_hand = scene.model_copy(
        update={"parts": {**scene.parts, "strap": strap}, "materials": {**scene.materials, "ink": ink}}
    )
    pictures = []
    for each in (moving, by_hand):
        engine = Engine(1)
        engine.open(scene, None)
        engine.apply(each, None)
        assert engine.scene is each
        film = Film(32, 24)
        engine.trace(film, 4)
        pictures.append(film.radiance())
        engine.close()
    assert np.allclose(pictures[0], pictures[1], rtol=1e-4, atol=1e-5) and pictures[0].max() > 0


def test_to_go_through_many_keys_costs_little_and_keeps_what_does_not_move():
    scene = furnished()
    keys = tuple(ValueKey(time=k / 25, value=float(k % 7)) for k in range(2000))
    scene = with_moves(scene, e=Keyed(name="E", path="/look/exposure", keys=keys))
    mover = Mover()
    first, second = (mover.moved(scene.model_copy(update={"shutter": Shutter(time=t)})) for t in (1.0, 2.0))
    assert first.parts is second.parts is scene.parts and first.look.exposure != second.look.exposure
