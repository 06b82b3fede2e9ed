"""Materials of a project as a whole, and layers begun so that they are seen."""

import numpy as np
import pytest

from lantern.scene.document import Material, Part, Scene
from lantern.scene.dressing import with_layer, with_mask
from lantern.scene.editing import apply_patch
from lantern.scene.layers import MOST_LAYERS, Layer
from lantern.scene.reading import read_scene
from lantern.scene.wardrobe import of_their_own, without_unworn
from tests.core.shapes import box_mesh
from tests.core.test_inputs import means, scene_of


def patched(scene, made):
    return read_scene(apply_patch(scene.plain(), made.patch)[0])


def dressed(worn, **materials):
    parts = {key: Part(name=key, mesh=0, material=material) for key, material in worn.items()}
    made = {
        key: Material(name=key.title(), layers=tuple(Layer(material=over) for over in layers))
        for key, layers in materials.items()
    }
    return Scene(parts=parts, materials=made)


def test_parts_get_materials_of_their_own_where_others_wear_the_same():
    scene = dressed({"a": "red", "b": "red", "c": "red", "d": "blue"}, red=["blue"], blue=[])
    found = patched(scene, of_their_own(scene, ["a", "b", "d", "gone"]))
    fresh = found.parts["a"].material
    assert fresh == found.parts["b"].material and fresh not in scene.materials
    assert [found.parts[key].material for key in "cd"] == ["red", "blue"], "blue is its own already"
    assert found.materials[fresh].name == "Red 2" and found.materials[fresh].layers == scene.materials["red"].layers
    assert of_their_own(scene, ["d"]).patch == [] and of_their_own(scene, list("abc")).patch == []


def test_what_nothing_wears_goes_and_what_is_laid_over_something_stays():
    scene = dressed({"a": "red"}, red=["rust"], rust=["dust"], dust=[], old=["older"], older=[], alone=[])
    made = without_unworn(scene)
    assert set(patched(scene, made).materials) == {"red", "rust", "dust"}
    assert made.label == "Remove 3 materials that nothing wears"
    assert without_unworn(patched(scene, made)).patch == []


@pytest.mark.parametrize("extent", [0.002, 0.3, 300.0])
def test_a_new_layer_lies_at_the_edges_as_wide_as_suits_the_part(extent):
    scene, _ = scene_of(Material(name="M"))
    scene = scene.model_copy(update={"materials": scene.materials | {"over": Material(name="Over")}})
    found = patched(scene, with_layer(scene, ["m", "over"], "over", extent))
    assert found.materials["over"].layers == (), "nothing lies over itself"
    (layer,) = found.materials["m"].layers
    assert layer.mask.source.kind == "edges" and 30 < extent / layer.mask.source.width < 100
    for _ in range(MOST_LAYERS):
        found = patched(found, with_layer(found, ["m"], "over", extent))
    assert len(found.materials["m"].layers) == MOST_LAYERS, "one too many is left out"


def test_a_new_layer_is_seen_and_another_mask_keeps_its_values():
    scene, asset = scene_of(Material(name="M", base_color=(0.7, 0.1, 0.1)), box_mesh((-0.4,) * 3, (0.4,) * 3))
    scene = scene.model_copy(update={"materials": scene.materials | {"over": Material(name="Over")}})
    laid = patched(scene, with_layer(scene, ["m"], "over", 0.8))
    assert np.abs(means(laid, asset, 16).albedo - means(scene, asset, 16).albedo).max() > 0.3
    turned = (
        laid.materials["m"]
        .layers[0]
        .model_copy(update={"mask": laid.materials["m"].layers[0].mask.model_copy(update={"low": 1.0, "high": 0.0})})
    )
    materials = laid.materials | {"m": laid.materials["m"].model_copy(update={"layers": (turned,)})}
    laid = laid.model_copy(update={"materials": materials})
    other = patched(laid, with_mask(laid, "m", 0, "mask", "noise", 0.8)).materials["m"].layers[0]
    assert other.mask.source.kind == "noise" and (other.mask.low, other.mask.high) == (1.0, 0.0)
    broken = patched(laid, with_mask(laid, "m", 0, "breakup", "smudges", 0.8)).materials["m"].layers[0]
    assert broken.breakup.combine == "multiply" and broken.mask == turned.mask
    with pytest.raises(IndexError):
        with_mask(laid, "m", 1, "mask", "noise", 0.8)
