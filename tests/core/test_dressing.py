"""New inputs: around the constant they join, of a size that suits the part, seen at once."""

import numpy as np
import pytest

from lantern.scene.document import Material, Scene
from lantern.scene.dressing import new_input, with_input
from lantern.scene.editing import apply_patch
from lantern.scene.inputs import PARAMETERS, MaterialInput, Placement
from lantern.scene.reading import read_scene
from lantern.scene.sources import LABELS, SOURCES, NoiseSource, PatternSource
from tests.core.shapes import one_part, sphere_mesh, traced

RED = Material(name="Red", base_color=(0.8, 0.1, 0.1), specular_roughness=0.5)
SCENE = Scene(materials={"m": RED, "n": RED.model_copy(update={"bump": 0.003})})


def dressed(scene, *arguments):
    return read_scene(apply_patch(scene.plain(), with_input(scene, *arguments).patch)[0])


def test_every_kind_has_a_name_and_can_be_given_to_every_parameter():
    assert set(LABELS) == set(SOURCES)
    for kind in SOURCES:
        for parameter in PARAMETERS:
            found = dressed(SCENE, ["m", "n"], parameter, kind, 0.2)
            assert all(found.materials[key].inputs[parameter].source.kind == kind for key in "mn")


@pytest.mark.parametrize("extent", [0.002, 0.3, 300.0])
def test_a_pattern_is_as_fine_as_the_part_is_large(extent):
    for kind, model in SOURCES.items():
        if issubclass(model, PatternSource):
            assert 5 < extent / new_input(RED, "base_color", kind, extent).placement.size < 100


def test_a_colour_goes_from_dark_to_what_it_was_and_a_number_up_and_down():
    stops = new_input(RED, "base_color", "noise", 0.1).ramp.stops
    assert stops[-1].color == RED.base_color and max(stops[0].color) < 0.5
    rough = new_input(RED, "specular_roughness", "noise", 0.1)
    assert (rough.low, rough.high) == (0.3, 0.7)
    weight = new_input(RED, "coat_weight", "noise", 0.1)
    assert (weight.low, weight.high) == (0.0, 1.0)


def test_a_bump_has_a_height_from_its_beginning_and_keeps_one_it_had():
    found = dressed(SCENE, ["m", "n"], "bump", "dots", 0.16)
    assert found.materials["m"].bump == pytest.approx(0.01 * 0.05) and found.materials["n"].bump == 0.003


def test_another_source_keeps_all_else():
    one = MaterialInput(source=NoiseSource(), placement=Placement(kind="plane", size=0.7), amount=0.3)
    scene = Scene(materials={"m": RED.model_copy(update={"inputs": {"base_color": one}})})
    found = dressed(scene, ["m"], "base_color", "checks", 0.2).materials["m"].inputs["base_color"]
    assert found.source.kind == "checks"
    assert found.model_copy(update={"source": one.source}) == one


def test_what_was_given_is_seen_at_once():
    plain, asset = one_part(RED, sphere_mesh())
    before = traced(plain, asset, 4).means().radiance
    for parameter in ("base_color", "specular_roughness", "bump", "coat_weight", "geometry_opacity"):
        scene = dressed(plain, ["m"], parameter, "noise", 0.2)
        assert np.abs(traced(scene, asset, 4).means().radiance - before).mean() > 1e-3, parameter


def test_an_image_of_ones_own_is_seen_as_it_is():
    for kind in ("picture", "lit_ball"):
        one = new_input(RED, "base_color", kind, 0.1)
        assert one.ramp is None and one.combine == "replace"
