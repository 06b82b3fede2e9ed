"""Pictures of a document under several editions, shots and conditions."""

import math

import pytest

from lantern.scene import shots, variants
from lantern.scene.conditions import conditions_of
from lantern.scene.document import Camera
from lantern.scene.orders import Combination, OrderError, combinations, document_of, seen_around
from lantern.scene.variants import VariantError
from tests.core.test_variants import after, edited, with_metals


def furnished():
    """Two editions of two metals, a shot with a look of its own, evening with another exposure."""
    scene = with_metals()
    scene = after(scene, variants.kept_edition(scene, "In steel"))
    scene = after(scene, variants.taken(scene, {"group-1": "variant-1"}))
    scene = after(scene, variants.kept_edition(scene, "In brass"))
    near = scene.camera.model_copy(update={"focal_length": 135.0})
    scene = after(scene, shots.kept(scene, near))
    dark = scene.model_copy(update={"look": scene.look.model_copy(update={"exposure": -2.0})})
    return scene.model_copy(update={"conditions": {"evening": conditions_of(dark, "Evening")}})


def test_each_edition_is_seen_in_each_shot_under_all_conditions_in_order():
    asked = list(combinations(["b", "a", "b"], [], ["day", "night"]))
    assert asked == [
        Combination("b", None, "day"),
        Combination("b", None, "night"),
        Combination("a", None, "day"),
        Combination("a", None, "night"),
    ]
    assert list(combinations([], [], [])) == [Combination()]


def test_a_document_has_edition_shot_and_light_at_once_and_the_rest_stays():
    scene = furnished()
    editions = {one.name: key for key, one in scene.editions.items()}
    (shot,) = scene.shots
    seen = document_of(scene, Combination(editions["In steel"], shot, "evening"))
    assert seen.parts["base"].material == "steel" and seen.parts["base"].edge_radius == 0.001
    assert seen.camera.focal_length == 135.0 and seen.look.exposure == -2.0
    assert seen.parts["strap"] == scene.parts["strap"] and document_of(scene, Combination()) == scene
    assert Combination(editions["In steel"], None, "evening").names(scene) == ("In steel", "", "Evening")


def test_light_that_is_asked_for_wins_over_that_of_the_shot():
    scene = furnished()
    (shot,) = scene.shots
    own = scene.model_copy(update={"look": scene.look.model_copy(update={"exposure": 3.0})})
    scene = scene.model_copy(update={"conditions": {**scene.conditions, "noon": conditions_of(own, "Noon")}})
    scene = edited(scene, ("replace", f"/shots/{shot}/conditions", "noon"))
    assert document_of(scene, Combination(shot=shot)).look.exposure == 3.0
    assert document_of(scene, Combination(shot=shot, conditions="evening")).look.exposure == -2.0


def test_what_is_gone_or_against_a_rule_is_said():
    scene = furnished()
    for wanted in (Combination(shot="gone"), Combination(conditions="gone"), Combination(edition="gone")):
        with pytest.raises(OrderError, match="gone: choose again"):
            document_of(scene, wanted)
    rule = {"together": {"group-1": "variant-2", "group-2": "variant-1"}}
    against = edited(after(scene, variants.begun(scene)), ("replace", "/exclusions", [rule]))
    steel = next(key for key, one in against.editions.items() if one.name == "In steel")
    with pytest.raises(VariantError, match="do not go together"):
        document_of(against, Combination(edition=steel))


def test_a_ring_of_cameras_is_a_level_circle_about_what_they_look_at():
    camera = Camera(position=(3.0, 2.0, 1.0), target=(0.5, 0.25, -1.0))
    ring = [seen_around(camera, 30.0 * k) for k in range(12)]
    assert ring[0].position == pytest.approx(camera.position)
    for one in ring:
        assert math.dist(one.position, one.target) == pytest.approx(math.dist(camera.position, camera.target))
        assert one.position[1] == 2.0 and one.target == camera.target
    half = seen_around(camera, 180.0)
    middle = [(a + b) / 2 for a, b in zip(camera.position, half.position, strict=True)]
    assert (middle[0], middle[2]) == pytest.approx((0.5, -1.0)), "half a turn is on the other side"
    right = seen_around(Camera(position=(0, 0, 5), target=(0, 0, 0)), 90.0)
    assert right.position == pytest.approx((5, 0, 0), abs=1e-9), "the first step is to the right"


def test_a_camera_that_is_raised_or_nearer_keeps_what_it_looks_at_and_what_is_sharp():
    camera = Camera(position=(3.0, 0.0, 4.0), target=(0.0, 0.0, 0.0), focus_distance=4.5)
    raised = seen_around(camera, 0.0, raised=30.0)
    assert raised.position == pytest.approx((3 * math.cos(math.pi / 6), 2.5, 4 * math.cos(math.pi / 6)))
    assert raised.focus_distance == 4.5
    over = seen_around(camera, 0.0, raised=80.0).position
    assert seen_around(camera, 0.0, raised=200.0).position != over, "it goes on above that"
    assert seen_around(camera, 0.0, raised=200.0) == seen_around(camera, 0.0, raised=85.0), "and never turns over"
    near = seen_around(camera, 0.0, closer=2.0)
    assert near.position == pytest.approx((1.5, 0.0, 2.0)) and near.focus_distance == pytest.approx(2.0), "half a metre"
    above = Camera(position=(0.0, 5.0, 0.0), target=(0.0, 0.0, 0.0))
    assert seen_around(above, 90.0, raised=10.0).position == pytest.approx((0, 5, 0)), "from above there is no side"
