"""Variants of glTF files and variant sets of OpenUSD stages, in and out; variants in tidying and in set-ups."""

from pathlib import Path

import numpy as np
import pytest
from pxr import Gf, Sdf, Usd, UsdGeom, UsdShade

from lantern.assets.beginning import begun as begun_with
from lantern.assets.errors import AssetError
from lantern.assets.joining import joined
from lantern.assets.kept import keep, recall
from lantern.assets.reading import import_asset
from lantern.engine.exporting import exported
from lantern.scene.document import Material
from lantern.scene.editions import Variant, VariantGroup
from lantern.scene.model import FileRef
from lantern.scene.starts import setup_of
from lantern.scene.variants import kept_edition, taken
from lantern.scene.wardrobe import without_unworn
from tests.core import usd_files
from tests.core.gltf_files import document, glb
from tests.core.shapes import no_files
from tests.core.test_exporting import case, returned  # noqa: F401 the fixture
from tests.core.test_variants import after, edited, lantern

FILE = FileRef(sha256="0" * 64, name="square.glb")


def with_variants(names=("Red", "Blue", "Bare"), mappings=None):
    """The square of `document`: in its own material, in blue, and in a variant of which nothing is said."""
    content = document()
    content["materials"] += [{"name": "Blue Enamel"}, {"name": "Cap"}]
    content["extensionsUsed"] = ["KHR_materials_variants"]
    content["extensions"] = {"KHR_materials_variants": {"variants": [{"name": name} for name in names]}}
    said = [{"material": 0, "variants": [0]}, {"material": 1, "variants": [1]}] if mappings is None else mappings
    content["meshes"][0]["primitives"][0]["extensions"] = {"KHR_materials_variants": {"mappings": said}}
    return content


def brought(tmp_path, content):
    path = tmp_path / "square.glb"
    path.write_bytes(glb(content))
    return import_asset(path)


def test_variants_of_a_file_come_in_as_a_group_of_which_its_own_is_on(tmp_path):
    asset = brought(tmp_path, with_variants())
    assert not any("variants" in problem for problem in asset.problems)
    scene = begun_with(asset, FILE, np.zeros(3), np.ones(3))
    (group,) = scene.variant_groups.values()
    assert [(one.name, one.values) for one in group.variants.values()] == [
        ("Red", {"/parts/square/material": "red-enamel"}),
        ("Blue", {"/parts/square/material": "blue-enamel"}),
        ("Bare", {"/parts/square/material": "red-enamel"}),
    ]
    assert group.variants[group.chosen].name == "Red"
    blue = after(scene, taken(scene, {next(iter(scene.variant_groups)): "variant-2"}))
    assert blue.parts["square"].material == "blue-enamel"


def test_what_is_worn_in_none_of_them_is_a_variant_too(tmp_path):
    mappings = [{"material": 1, "variants": [0]}, {"material": 2, "variants": [1, 2]}]
    (group,) = brought(tmp_path, with_variants(mappings=mappings)).variants.values()
    assert [one.name for one in group.variants.values()] == ["As it came", "Red", "Blue", "Bare"]
    assert group.variants[group.chosen].values == {"/parts/square/material": "red-enamel"}


@pytest.mark.parametrize(
    ("mappings", "words"),
    [
        ([{"material": 9, "variants": [0]}], "material 9 of a variant is missing"),
        ([{"material": 1, "variants": [3]}], "variant 3 is missing"),
        ([{"material": 1}], "does not follow glTF"),
        ([7], "does not follow glTF"),
    ],
)
def test_variants_that_cannot_be_are_refused_with_the_reason(tmp_path, mappings, words):
    with pytest.raises(AssetError, match=words):
        brought(tmp_path, with_variants(mappings=mappings))


def test_a_file_that_names_variants_and_uses_none_has_none(tmp_path):
    assert brought(tmp_path, with_variants(mappings=[])).variants == {}


def test_variants_are_kept_with_what_was_read_and_follow_their_asset_into_another(tmp_path, monkeypatch):
    monkeypatch.setenv("LANTERN_CACHE", str(tmp_path / "cache"))
    asset = brought(tmp_path, with_variants())
    assert keep("ab" * 32, asset) and recall("ab" * 32).variants == asset.variants
    both = joined([("1", "one", asset), ("2", "two", asset)])
    first, second = both.variants.values()
    assert first == next(iter(asset.variants.values()))
    for variant in second.variants.values():
        ((path, material),) = variant.values.items()
        assert path.split("/")[2] in both.parts and path.startswith("/parts/2-") and material in both.materials


def test_groups_that_say_what_parts_wear_go_out_and_come_back(case, tmp_path):  # noqa: F811
    scene, asset = case
    values = [{"/parts/box/material": key} for key in ("oak", "brass")]
    wood = VariantGroup(
        name="Box",
        variants={f"v{n}": Variant(name=n.title(), values=v) for n, v in zip(("oak", "metal"), values, strict=True)},
        chosen="voak",
    )
    sizes = VariantGroup(name="Size", variants={"large": Variant(name="Large", values={"/parts/ball/size": 3.0})})
    scene = scene.model_copy(update={"variant_groups": {"wood": wood, "sizes": sizes}})
    back, lost = returned(tmp_path, scene, asset)
    assert "variants 'Size'" in lost and "variants 'Box'" not in lost
    (group,) = back.variants.values()
    box = next(key for key, part in back.parts.items() if part.name == "Box")
    assert [one.name for one in group.variants.values()] == ["Oak", "Metal"]
    worn = [back.materials[one.values[f"/parts/{box}/material"]].name for one in group.variants.values()]
    assert worn == ["Oak", "Brass"] and group.variants[group.chosen].name == "Oak"
    two = scene.model_copy(update={"variant_groups": {"wood": wood, "again": wood.model_copy(update={"name": "Lid"})}})
    names = [one.name for one in next(iter(returned(tmp_path, two, asset)[0].variants.values())).variants.values()]
    assert names == ["Box: Oak", "Box: Metal", "Lid: Oak", "Lid: Metal"]


def test_materials_of_a_variant_that_is_not_on_are_worn():
    """Tidying would have left the variant with a material that is gone, and no way to take it."""
    group = VariantGroup(
        name="Strap",
        variants={
            "a": Variant(name="A", values={"/parts/strap/material": "cognac"}),
            "b": Variant(name="B", values={"/parts/strap/material": "ink"}),
        },
        chosen="a",
    )
    scene = edited(lantern(), ("add", "/materials/spare", Material(name="Spare").model_dump(mode="json")))
    scene = scene.model_copy(update={"variant_groups": {"strap": group}})
    tidy = after(scene, without_unworn(scene))
    assert "spare" not in tidy.materials and "ink" in tidy.materials
    assert after(tidy, taken(tidy, {"strap": "b"})).parts["strap"].material == "ink"


def test_a_set_up_for_other_assets_has_no_variants_of_this_one():
    group = VariantGroup(name="S", variants={"a": Variant(name="A", values={"/parts/strap/visible": True})}, chosen="a")
    scene = lantern().model_copy(update={"variant_groups": {"s": group}})
    scene = after(scene, kept_edition(scene))
    setup = setup_of(scene)
    assert scene.editions and not setup.variant_groups and not setup.editions and not setup.edition_order


@pytest.fixture
def stage(tmp_path):
    """A square, which wears nothing of itself, a ball, and two materials."""
    made = Usd.Stage.CreateNew(str(tmp_path / "made.usda"))
    UsdGeom.SetStageMetersPerUnit(made, 1.0)
    UsdGeom.Xform.Define(made, "/Root")
    usd_files.mesh(made, "/Root/Square")
    UsdGeom.Sphere.Define(made, "/Root/Ball")
    for name, color in (("Red", (0.8, 0.1, 0.05)), ("Blue", (0.1, 0.1, 0.8))):
        usd_files.preview(made, f"/Root/{name}", diffuseColor=color)
    return made


def read(stage):
    stage.GetRootLayer().Save()
    return import_asset(Path(stage.GetRootLayer().realPath))


def sets_of(stage, name, **variants):
    """A set on `/Root`, each of whose variants is written by a function of the stage; the first is chosen."""
    made = stage.GetPrimAtPath("/Root").GetVariantSets().AddVariantSet(name)
    for variant, write in variants.items():
        made.AddVariant(variant)
        made.SetVariantSelection(variant)
        with made.GetVariantEditContext():
            write(stage)
    made.SetVariantSelection(next(iter(variants)))


def bound(material):
    def write(stage):
        square = stage.OverridePrim("/Root/Square")
        UsdShade.MaterialBindingAPI.Apply(square).Bind(UsdShade.Material.Get(stage, f"/Root/{material}"))

    return write


def hidden(stage):
    UsdGeom.Imageable(stage.GetPrimAtPath("/Root/Ball")).CreateVisibilityAttr(UsdGeom.Tokens.invisible)


def test_variant_sets_of_a_stage_come_in_as_groups_of_which_the_chosen_is_on(stage):
    sets_of(stage, "finish", red=bound("Red"), blue=bound("Blue"))
    sets_of(stage, "lid", on=lambda _: None, off=hidden)
    asset = read(stage)
    scene = begun_with(asset, FILE, np.zeros(3), np.ones(3))
    finish, lid = scene.variant_groups.values()
    assert (finish.name, lid.name) == ("finish", "lid")
    assert [(one.name, one.values) for one in finish.variants.values()] == [
        ("blue", {"/parts/square/material": "blue"}),
        ("red", {"/parts/square/material": "red"}),
    ], "the format has them in the order of their names"
    assert [one.values for one in lid.variants.values()] == [
        {"/parts/ball/visible": False},
        {"/parts/ball/visible": True},
    ]
    assert finish.variants[finish.chosen].name == "red" and lid.variants[lid.chosen].name == "on"
    assert asset.materials["blue"].base_color == pytest.approx((0.1, 0.1, 0.8))
    both = after(scene, taken(scene, dict.fromkeys(scene.variant_groups, "variant-1")))
    assert both.parts["square"].material == "blue" and not both.parts["ball"].visible


def test_a_variant_that_changes_a_material_changes_that_material(stage):
    sets_of(stage, "finish", red=bound("Red"), blue=bound("Blue"))

    def green(stage):
        shader = UsdShade.Shader(stage.OverridePrim("/Root/Paint/Surface"))
        shader.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).Set(Gf.Vec3f(0.1, 0.7, 0.1))

    paint = usd_files.preview(stage, "/Root/Paint", roughness=0.3)
    UsdShade.MaterialBindingAPI.Apply(stage.GetPrimAtPath("/Root/Ball")).Bind(paint)
    sets_of(stage, "paint", plain=lambda _: None, green=green)
    asset = read(stage)
    group = next(one for one in asset.variants.values() if one.name == "paint")
    painted, plain = (one.values["/materials/paint"] for one in group.variants.values())
    assert painted["base_color"] == pytest.approx((0.1, 0.7, 0.1)) and plain["specular_roughness"] == 0.3
    assert {key for key in plain if plain[key] != painted[key]} == {"base_color"}
    scene = begun_with(asset, FILE, np.zeros(3), np.ones(3))
    key = next(key for key, one in scene.variant_groups.items() if one.name == "paint")
    worn = after(scene, taken(scene, {key: "variant-1"}))
    assert worn.materials["paint"].base_color == pytest.approx((0.1, 0.7, 0.1))


def test_what_only_another_variant_has_is_said_and_not_there(stage):
    sets_of(stage, "size", small=lambda _: None, large=lambda s: UsdGeom.Cube.Define(s, "/Root/Box"))
    asset = read(stage)
    assert set(asset.parts) == {"square", "ball"} and asset.variants == {}
    assert asset.problems == ["size: what 1 surfaces have in other variants alone"]


def test_groups_go_out_as_variant_sets_and_come_back(case, tmp_path):  # noqa: F811
    scene, asset = case
    values = [
        {"/parts/box/material": key, "/parts/ball/material": other}
        for key, other in (("oak", "brass"), ("brass", "oak"))
    ]
    wood = VariantGroup(
        name="1 Finish",
        variants={f"v{n}": Variant(name="Same name", values=v) for n, v in enumerate(values)},
        chosen="v1",
    )
    worn = {
        key: scene.parts[key].model_copy(update={"material": values[1][f"/parts/{key}/material"]})
        for key in ("box", "ball")
    }
    scene = scene.model_copy(update={"variant_groups": {"wood": wood}, "parts": {**scene.parts, **worn}})
    path = tmp_path / "out.usdz"
    written = exported(scene, asset, "usdz", no_files)
    path.write_bytes(written.data)
    back = import_asset(path)
    assert not any("variants" in each for each in written.lost)
    (group,) = back.variants.values()
    assert [one.name for one in group.variants.values()] == ["Same_name", "Same_name_2"]
    names = {part.name: key for key, part in back.parts.items()}
    for variant, metals in zip(group.variants.values(), ((0, 1), (1, 0)), strict=True):
        found = [back.materials[variant.values[f"/parts/{names[n]}/material"]].base_metalness for n in ("Box", "Ball")]
        assert found == list(metals) and len(variant.values) == 2
    assert group.variants[group.chosen].name == "Same_name_2"
    assert back.materials[back.parts[names["Box"]].material].base_metalness == 1
