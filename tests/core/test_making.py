"""New lights and sets: of a size and at a place that suit any asset."""

import numpy as np
import pytest

from lantern.scene.document import Part, Scene
from lantern.scene.editing import Document
from lantern.scene.keys import free_key
from lantern.scene.lights import LIGHT_KINDS, extents_of
from lantern.scene.making import Spot, new_light, new_set

SIZES = [0.002, 0.3, 362.0]
MIDDLE = np.array([1.0, 2.0, -3.0])


def box_of(size):
    half = np.full(3, size / 2 / np.sqrt(3))
    return tuple(MIDDLE - half), tuple(MIDDLE + half)


def added(scene, made):
    """The light as it is once the patch has been applied as any edit is."""
    return Document.read(scene.plain()).patched(made.patch)[0].scene.lights[made.key]


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("kind", LIGHT_KINDS)
def test_a_light_suits_the_asset_whatever_its_size(kind, size):
    scene = Scene()
    light = added(scene, new_light(scene, kind, box_of(size)))
    assert np.allclose(light.target, MIDDLE, atol=size / 200)
    away = np.array(light.position) - np.array(light.target)
    assert 1.5 * size < np.linalg.norm(away) < 3 * size and away[1] > 0
    for name in extents_of(type(light)):
        assert 0.1 * size < getattr(light, name) < size or getattr(light, name) == 1000.0
    if light.unit == "lm":
        # Inverse-square law: flux over distance squared is what arrives.
        assert light.amount / (away @ away) == pytest.approx(20.0 / 0.99, rel=0.06)


def test_lights_stand_around_the_asset_and_not_in_one_another():
    scene, places = Scene(), []
    for _ in range(8):
        made = new_light(scene, "rectangle", box_of(0.3))
        scene = Document.read(scene.plain()).patched(made.patch)[0].scene
        places.append(np.array(scene.lights[made.key].position))
    apart = [np.linalg.norm(a - b) for i, a in enumerate(places) for b in places[:i]]
    assert min(apart) > 0.1
    assert places[0][0] > MIDDLE[0] and places[0][2] > MIDDLE[2], "the first is in front, to the right"


@pytest.mark.parametrize("depth", [0.004, 1.0, 700.0])
def test_a_light_over_a_spot_stands_straight_above_its_surface(depth):
    normal = np.array([0.6, 0.8, 0.0])
    scene = Scene()
    light = added(scene, new_light(scene, "rectangle", None, Spot(tuple(MIDDLE), tuple(normal), depth)))
    away = np.array(light.position) - np.array(light.target)
    assert np.linalg.norm(away) == pytest.approx(depth / 2, rel=0.02)
    assert away / np.linalg.norm(away) == pytest.approx(normal, abs=0.02)


def test_keys_are_free_and_names_go_with_them():
    assert free_key(["light-1", "light-3"], "light") == ("light-2", 2)
    scene = Scene(parts={"a": Part(name="A", mesh=0, material="m")})
    made = new_set(scene, ["a"])
    assert made.patch == [{"op": "add", "path": "/part_sets/set-1", "value": {"name": "Set 1", "parts": ["a"]}}]
    assert made.label == "New part set 1"
