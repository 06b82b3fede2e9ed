"""Keys by hand: set and taken away at the moment that is shown, on any place; what places are like between them."""

import pytest

from lantern.motion.keying import KeyingError, pasted, toggled, tracks, values_now
from lantern.motion.moving import Mover
from lantern.scene.document import Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.motion import MOST_KEYS, MOST_MOVES, Keyed, Turntable, ValueKey
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene

EXPOSURE, COLOUR, SEEN = "/look/exposure", "/materials/paint/base_color", "/parts/ball/visible"


def scene():
    return Scene(
        parts={"ball": Part(name="Ball", material="paint", form=BallForm(radius=0.1))},
        materials={"paint": Material(name="Paint", base_color=(0.2, 0.4, 0.6))},
    )


def done(before, made):
    return read_scene(apply_operations(before.plain(), made.patch)[0])


def at(before, time, **values):
    """The document at another moment, with places changed as a window does it: as keys."""
    moved = before.model_copy(update={"shutter": before.shutter.model_copy(update={"time": time})})
    for path, value in values.items():
        key = tracks(moved)[path]
        move = moved.motion.moves[key]
        keys = sorted([*move.keys, ValueKey(time=time, value=value)], key=lambda each: each.time)
        moves = {**moved.motion.moves, key: move.model_copy(update={"keys": tuple(keys)})}
        moved = moved.model_copy(update={"motion": moved.motion.model_copy(update={"moves": moves})})
    return moved


def test_a_first_key_changes_nothing_and_a_second_makes_it_move():
    first = done(scene(), toggled(scene(), [EXPOSURE]))
    [move] = first.motion.moves.values()
    assert move.name == "Look: exposure" and [each.time for each in move.keys] == [0.0]
    assert Mover().moved(first).look == scene().look
    later = at(first, 2.0, **{EXPOSURE: 4.0})
    assert values_now(at(later, 1.0)) == {EXPOSURE: pytest.approx((scene().look.exposure + 4.0) / 2)}
    assert Mover().moved(at(later, 1.0)).look.exposure == pytest.approx((scene().look.exposure + 4.0) / 2)


def test_a_key_between_two_has_what_is_seen_there_and_goes_on_as_the_one_before():
    later = at(done(scene(), toggled(scene(), [EXPOSURE])), 2.0, **{EXPOSURE: 4.0})
    middle = at(later, 0.5)
    between = done(middle, toggled(middle, [EXPOSURE]))
    [move] = between.motion.moves.values()
    assert [each.time for each in move.keys] == [0.0, 0.5, 2.0]
    for moment in (0.0, 0.25, 0.5, 1.3, 2.0):
        now = Mover().moved(at(between, moment)).look.exposure
        assert now == pytest.approx(Mover().moved(at(later, moment)).look.exposure), "nothing is seen of it"


def test_keys_are_taken_away_and_with_the_last_the_track():
    first = done(scene(), toggled(scene(), [EXPOSURE, COLOUR, SEEN]))
    assert {move.path for move in first.motion.moves.values()} == {EXPOSURE, COLOUR, SEEN}
    later = at(first, 1.0)
    both = done(later, toggled(later, [EXPOSURE, COLOUR]))
    assert [len(move.keys) for move in both.motion.moves.values()] == [2, 2, 1]
    mixed = done(both, toggled(both, [EXPOSURE, SEEN]))
    assert [len(move.keys) for move in mixed.motion.moves.values()] == [2, 2, 2], "one of them has none: it gets one"
    one = done(mixed, toggled(mixed, [EXPOSURE]))
    none = done(at(one, 0.0), toggled(at(one, 0.0), [EXPOSURE]))
    assert EXPOSURE not in tracks(none) and COLOUR in tracks(none)
    assert Mover().moved(none).look == scene().look


def test_what_cannot_move_is_said():
    for path, words in (
        ("/look/view", "Look: .* cannot move"),
        ("/materials/paint/inputs", "cannot move"),
        ("/materials/gone/base_color", "gone"),
        ("/motion/rate", "cannot move"),
    ):
        with pytest.raises(KeyingError, match=words):
            toggled(scene(), [path])
    full = {f"m{n}": Turntable(name="T") for n in range(MOST_MOVES)}
    crowded = scene().model_copy(update={"motion": scene().motion.model_copy(update={"moves": full})})
    with pytest.raises(KeyingError, match="remove one first"):
        toggled(crowded, [EXPOSURE])


def test_a_track_that_is_off_says_nothing_and_one_whose_place_is_gone_is_passed_over():
    keyed = done(scene(), toggled(scene(), [EXPOSURE]))
    [(key, move)] = keyed.motion.moves.items()
    off = {"off": move.model_copy(update={"enabled": False})}
    assert values_now(keyed.model_copy(update={"motion": keyed.motion.model_copy(update={"moves": off})})) == {}
    gone = Keyed(name="Gone", path="/materials/gone/base_metalness", keys=(ValueKey(time=0, value=1.0),))
    both = keyed.motion.model_copy(update={"moves": {key: move, "gone": gone}})
    assert set(values_now(keyed.model_copy(update={"motion": both}))) == {EXPOSURE}


def test_keys_are_laid_in_where_the_moment_is_and_keep_their_distances():
    first = at(done(scene(), toggled(scene(), [EXPOSURE])), 2.0, **{EXPOSURE: 4.0})
    [key] = first.motion.moves
    keys = first.motion.moves[key].keys
    later = done(at(first, 5.0), pasted(at(first, 5.0), key, keys))
    assert [(each.time, each.value) for each in later.motion.moves[key].keys] == [(0, 0), (2, 4), (5, 0), (7, 4)]
    over = done(at(first, 2.0), pasted(at(first, 2.0), key, keys[:1]))
    assert [(each.time, each.value) for each in over.motion.moves[key].keys] == [(0, 0), (2, 0)]


def test_keys_of_another_kind_and_too_many_are_refused():
    both = done(scene(), toggled(scene(), [EXPOSURE, COLOUR]))
    exposure, color = both.motion.moves
    colors = both.motion.moves[color].keys
    with pytest.raises(KeyingError, match="of another kind"):
        pasted(at(both, 1.0), exposure, colors)
    with pytest.raises(KeyingError, match="gone"):
        pasted(both, "nothing", colors)
    many = [ValueKey(time=time, value=0.0) for time in range(MOST_KEYS)]
    with pytest.raises(KeyingError, match="10,002 keys"):
        pasted(
            at(both, 10.0), exposure, many[:1] + [each.model_copy(update={"time": each.time + 0.5}) for each in many]
        )
