"""The shelf: every swatch is possible, looks like something, and metals have the reflectance of their constants."""

import json

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.engine.shelf_pictures import main, make_pictures, picture_name
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.layers import Layer
from lantern.scene.sources import ImageSource
from lantern.scene.surroundings import Ground
from lantern.shelf.catalogue import catalogue
from lantern.shelf.metals import CONSTANTS, conductor, reflectances
from tests.core.shapes import sphere_mesh, traced

FAMILIES = 12
LEAST = 60


def test_there_are_families_names_and_words():
    found = catalogue()
    assert len(found) >= LEAST and len({each.family for each in found.values()}) == FAMILIES
    assert len({each.name for each in found.values()}) == len(found), "no two are called the same"
    assert all(each.words and each.key.islower() for each in found.values())
    for each in found.values():
        assert {layer.material for layer in each.material.layers} == set(each.over)
        every = [each.material, *each.over.values()]
        inputs = [one for material in every for one in material.inputs.values()]
        assert not any(isinstance(one.source, ImageSource) for one in inputs)


def ball(swatch):
    """Its mean in even white light, on a ball of 8 cm."""
    parts = {"ball": Part(name="Ball", mesh=0, material="m")}
    scene = Scene(
        parts=parts, materials={"m": swatch.material, **swatch.over}, ground=Ground(enabled=False),
        camera=Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=36 / 0.03, f_number=None),
    )  # fmt: skip
    return traced(scene, ImportedAsset("shelf", "none", [sphere_mesh(0.04, 48)]), 8, side=24).means().radiance


@pytest.mark.parametrize("key", catalogue())
def test_no_swatch_gives_more_light_than_it_gets(key):
    swatch = catalogue()[key]
    found = ball(swatch)
    assert np.isfinite(found).all() and found.mean() > 0.002
    if swatch.family != "Lights":
        assert found.mean(axis=(0, 1)).max() < 1.01


@pytest.mark.parametrize(
    ("name", "index"), [("gold", 0.18344 + 3.4332j), ("silver", 0.056206 + 4.2776j), ("aluminium", 1.3729 + 7.6184j)]
)
def test_constants_of_metals_agree_with_those_of_one_wavelength(name, index):
    """632.8 nm, as `verification/test_surface_optics.py` has them from the same papers."""
    energy, n, k = np.array(CONSTANTS[name]).T
    ours = np.interp(1239.841984 / 632.8, energy, n) + 1j * np.interp(1239.841984 / 632.8, energy, k)
    assert conductor(1.0, np.array(ours)) == pytest.approx(float(conductor(1.0, np.array(index))), abs=0.01)


def test_metals_have_their_colours():
    gold, copper, silver = (np.array(reflectances(name)[0]) for name in ("gold", "copper", "silver"))
    assert gold[0] > gold[1] > 1.5 * gold[2] and copper[0] > 1.3 * copper[1] > copper[2]
    assert silver.min() > 0.95 and np.ptp(silver) < 0.03


def test_pictures_are_named_by_what_they_show(tmp_path):
    worn = catalogue()["worn-yellow"]
    renamed = {f"x-{key}": each.model_copy(update={"name": "Other"}) for key, each in worn.over.items()}
    layers = tuple(one.model_copy(update={"material": f"x-{one.material}"}) for one in worn.material.layers)
    same = worn.material.model_copy(update={"layers": layers, "name": "Another"})
    name = picture_name(worn.material, worn.over)
    assert picture_name(same, renamed) == name, "neither names nor keys are seen"
    assert picture_name(same.model_copy(update={"base_color": (0.1, 0.1, 0.1)}), renamed) != name
    rusty = {key: each.model_copy(update={"base_color": (0.1, 0.1, 0.1)}) for key, each in renamed.items()}
    assert picture_name(same, rusty) != name
    shown = [(Material(name="Low", layers=(Layer(material="top"),)), {"top": Material(name="Top")})]
    assert make_pictures(tmp_path, shown) == 1 and make_pictures(tmp_path, shown) == 0
    assert (tmp_path / picture_name(*shown[0])).read_bytes()[:2] == b"\xff\xd8"


def test_pictures_of_a_file_are_made_as_well(tmp_path, monkeypatch):
    monkeypatch.setattr("lantern.engine.shelf_pictures.catalogue", dict)
    low, top = Material(name="Low", layers=(Layer(material="top"),)), Material(name="Top")
    data = [{"material": low.model_dump(mode="json"), "over": {"top": top.model_dump(mode="json")}}]
    (tmp_path / "own.json").write_text(json.dumps(data))
    main([str(tmp_path / "made"), str(tmp_path / "own.json")])
    assert [path.name for path in (tmp_path / "made").iterdir()] == [picture_name(low, {"top": top})]
