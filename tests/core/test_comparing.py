"""What differs between documents in words, taken over one by one, and restored in areas."""

import pytest

from demo.project import demo_scene
from lantern.scene.comparing import AREAS, differences, fitting, restored
from lantern.scene.document import Scene
from lantern.scene.editing import apply_patch
from lantern.scene.lights import PointLight, SpotLight
from lantern.scene.reading import read_scene
from lantern.scene.variants import begun, kept, taken
from tests.core.test_variants import after, lantern


def changed(scene, *operations):
    patch = [{"op": op, "path": path, "value": value} for op, path, value in operations]
    return read_scene(apply_patch(scene.plain(), patch)[0])


@pytest.fixture
def pair():
    first = lantern()
    ink = first.materials["ink"].model_copy(update={"name": "Night"}).model_dump(mode="json")
    second = changed(
        first,
        ("add", "/materials/night", ink),
        ("replace", "/parts/strap/material", "night"),
        ("replace", "/parts/base/visible", False),
        ("replace", "/camera/position", [1.0, 2.0, 3.0]),
        ("replace", "/camera/target", [0.0, 0.0, 1.0]),
        ("replace", "/look/grain/amount", 0.4),
        ("add", "/lights/rim", PointLight(name="Rim").model_dump(mode="json")),
        ("replace", "/print/width", 800),
    )
    return first, second


def test_every_difference_is_said_once_in_a_persons_words(pair):
    first, second = pair
    leather = first.materials[first.parts["strap"].material].name
    said = [(one.area, one.said) for one in differences(first, second)]
    assert said == [
        ("asset", "Base: hidden"),
        ("asset", f"Strap: material {leather} → Night"),
        ("materials", "Material Night: new"),
        ("light", "Light Rim: new"),
        ("camera", "Camera: stands elsewhere"),
        ("look", f"Look: grain amount {first.look.grain.amount:g} → 0.4"),
        ("print", "Print: width 1,920 px → 800 px"),
    ]
    back = [one.said for one in differences(second, first)]
    assert "Light Rim: gone" in back and f"Strap: material Night → {leather}" in back
    assert differences(first, first) == []


def test_one_difference_is_taken_over_and_the_rest_stays(pair):
    first, second = pair
    for one in differences(first, second):
        plain = apply_patch(first.plain(), fitting(one.to_second, first))[0]
        left = {each.said for each in differences(read_scene(plain), second)}
        assert one.said not in left
    worn = next(one for one in differences(first, second) if one.said.startswith("Strap"))
    taken = read_scene(apply_patch(first.plain(), fitting(worn.to_second, first))[0])
    assert taken.parts["strap"].material == "night" and taken.materials["night"].name == "Night"


def test_a_material_that_the_document_has_stays_as_it_is_when_one_is_put_on(pair):
    first, second = pair
    edited = changed(second, ("replace", "/parts/strap/material", "ink"), ("replace", "/materials/night/name", "Late"))
    worn = next(one for one in differences(first, second) if one.said.startswith("Strap"))
    taken = read_scene(apply_patch(edited.plain(), fitting(worn.to_second, edited))[0])
    assert taken.parts["strap"].material == "night" and taken.materials["night"].name == "Late"


def test_all_areas_make_one_as_the_other_and_one_area_only_that(pair):
    first, second = pair
    for here, then in ((first, second), (second, first)):
        assert read_scene(apply_patch(here.plain(), restored(here, then, AREAS))[0]) == then
    light = read_scene(apply_patch(first.plain(), restored(first, second, ["light"]))[0])
    assert light == first.model_copy(update={"lights": second.lights})
    asset = read_scene(apply_patch(first.plain(), restored(first, second, ["asset"]))[0])
    assert asset.parts == second.parts and "night" in asset.materials and asset.look == first.look


def test_every_section_of_the_document_is_in_one_area():
    listed = [section for sections in AREAS.values() for section in sections]
    assert len(listed) == len(set(listed))
    assert set(listed) == set(Scene.model_fields) - {"schema_version"}


def test_another_kind_of_thing_is_one_difference(pair):
    first, _ = pair
    lit = changed(first, ("add", "/lights/rim", PointLight(name="Rim").model_dump(mode="json")))
    spot = changed(lit, ("replace", "/lights/rim", SpotLight(name="Rim").model_dump(mode="json")))
    (one,) = [each for each in differences(lit, spot) if each.area == "light"]
    assert one.said.startswith("Rim:") and apply_patch(lit.plain(), one.to_second)[0] == spot.plain()


def test_variants_that_are_on_are_called_by_their_names():
    begun_with = after(lantern(), begun(lantern()))
    (key,) = begun_with.variant_groups
    worn = changed(begun_with, ("replace", "/parts/strap/material", "ink"))
    night = after(worn, kept(begun_with, worn, key, "Night"))
    day = after(night, taken(night, {key: "variant-1"}))
    assert [one.said for one in differences(day, night)] == ["Strap: material Cognac → Ink", "Strap: As it was → Night"]


def test_the_demo_restores_from_anything():
    demo = demo_scene()[0]
    bare = Scene()
    assert read_scene(apply_patch(bare.plain(), restored(bare, demo, AREAS))[0]) == demo
