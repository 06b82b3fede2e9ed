"""What no real thing has, and the nearest that one could have; our own shelf, asked the same."""

import pytest

from lantern.engine.possible import doubts
from lantern.scene.document import Material, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.inputs import MaterialInput, Ramp, Stop
from lantern.scene.reading import read_scene
from lantern.scene.sources import ImageSource, NoiseSource
from lantern.scene.texture_use import TextureUse
from lantern.shelf.catalogue import catalogue


def found(**fields):
    scene = Scene(materials={"m": Material(name="M", **fields)})
    return scene, doubts(scene, ["m", "gone"])


WRONG = {
    "too white": ({"base_color": (0.97, 0.95, 0.9)}, "base_color", "fresh snow"),
    "too white by its weight": ({"base_color": (1, 1, 1), "base_weight": 0.95}, "base_color", "fresh snow"),
    "too black": ({"base_color": (0, 0, 0), "specular_weight": 0.0}, "base_color", "soot"),
    "a dull metal": ({"base_color": (0.1, 0.1, 0.12), "base_metalness": 1.0}, "base_color", "oxides"),
    "a black metal": ({"base_color": (0, 0, 0), "base_metalness": 1.0}, "base_color", "oxides"),
    "half a metal": ({"base_metalness": 0.4}, "base_metalness", "metal or it is none"),
    "an index of air": ({"specular_ior": 1.1}, "specular_ior", "ice"),
    "an index beyond all": ({"specular_ior": 3.0}, "specular_ior", "rutile"),
    "an index of a coat": ({"coat_weight": 0.5, "coat_ior": 1.05}, "coat_ior", "coat"),
    "coloured gloss": ({"specular_color": (1, 0.8, 0.3)}, "specular_color", "white"),
}


@pytest.mark.parametrize("case", WRONG)
def test_what_is_wrong_is_said_and_settled_by_its_patch(case):
    fields, field, words = WRONG[case]
    scene, (doubt,) = found(**fields)
    assert (doubt.material, doubt.field) == ("m", field) and words in doubt.text and doubt.text.startswith("M: ")
    data, _ = apply_patch(scene.plain(), doubt.patch)
    assert doubts(read_scene(data), ["m"]) == [], "the nearest is possible"


def test_what_could_be_is_not_doubted():
    for fields in (
        {}, {"base_color": (0.9, 0.9, 0.9)}, {"base_color": (0.004, 0.004, 0.004)},
        {"base_color": (1.0, 0.74, 0.36), "base_metalness": 1.0, "specular_color": (0.98, 1, 0.98)},
        {"base_color": (1, 1, 1), "transmission_weight": 1.0}, {"base_color": (1, 1, 1), "emission_luminance": 5.0},
        {"base_color": (1, 1, 1), "base_color_texture": TextureUse(texture=0)},
        {"base_metalness": 0.4, "inputs": {"base_metalness": MaterialInput()}},
        {"coat_ior": 1.0}, {"base_color": (1, 1, 1), "inputs": {"base_color": MaterialInput(source=ImageSource())}},
    ):  # fmt: skip
        assert found(**fields)[1] == [], fields


def test_a_pattern_is_judged_by_its_brightest_colour():
    ramp = Ramp(stops=(Stop(at=0.0, color=(0, 0, 0)), Stop(at=1.0, color=(0.96, 0.96, 0.96))))
    bright = MaterialInput(source=NoiseSource(), ramp=ramp)
    _, (doubt,) = found(inputs={"base_color": bright})
    assert "fresh snow" in doubt.text and doubt.patch == [], "its ramp is for the hand"
    _, none = found(inputs={"base_color": MaterialInput(source=NoiseSource(), high=0.5)}, base_color=(1, 1, 1))
    assert none == []


PAINTED_METAL = {"paint-silver", "paint-blue", "paint-green", "plastic-carbon"}
"""Flakes and fibres in lacquer: a mixture of metal, or of carbon, and what it lies in."""


@pytest.mark.parametrize("key", catalogue())
def test_our_own_shelf_is_possible(key):
    swatch = catalogue()[key]
    scene = Scene(materials={"m": swatch.material, **swatch.over})
    said = [doubt.text for doubt in doubts(scene, list(scene.materials))]
    assert not said or key in PAINTED_METAL, said
