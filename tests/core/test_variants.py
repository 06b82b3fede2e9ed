"""Variants made by doing, taken, changed and combined."""

import pytest

from lantern.scene.arranging import Duplicate, arranged
from lantern.scene.document import Material, Part, Scene
from lantern.scene.editing import files_in
from lantern.scene.editions import Exclusion
from lantern.scene.forms import BallForm
from lantern.scene.lights import PointLight, RectangleLight
from lantern.scene.patching import apply_operations
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.variants import (
    VariantError,
    begun,
    combinations,
    defaults_taken,
    differing,
    edition_on,
    edition_taken,
    kept,
    kept_edition,
    present,
    rewritten,
    taken,
    words_of,
)
from lantern.scene.worn_apart import edition_worn


def after(scene, made):
    return read_scene(apply_operations(scene.plain(), made.patch)[0])


def edited(scene, *operations):
    patch = [{"op": op, "path": path, "value": value} for op, path, value in operations]
    return read_scene(apply_operations(scene.plain(), patch)[0])


def lantern():
    materials = {key: Material(name=key.title()) for key in ("brass", "steel", "cognac", "ink")}
    ball = BallForm(radius=0.1)
    parts = {
        "base": Part(name="Base", material="brass", form=ball),
        "strap": Part(name="Strap", material="cognac", form=ball),
    }
    return Scene(parts=parts, materials=materials)


def with_metals():
    """A group of two metals, steel being on."""
    scene = after(lantern(), begun(lantern()))
    steel = edited(scene, ("replace", "/parts/base/material", "steel"), ("replace", "/parts/base/edge_radius", 0.001))
    return after(steel, kept(scene, steel, "group-1", "Steel"))


def test_what_was_changed_since_is_a_variant_and_what_was_is_the_other():
    scene = with_metals()
    group = scene.variant_groups["group-1"]
    assert group.name == "Base" and group.chosen == "variant-2" and group.order == ("variant-1", "variant-2")
    assert group.variants["variant-2"].values == {"/parts/base/material": "steel", "/parts/base/edge_radius": 0.001}
    assert group.variants["variant-1"].values == {"/parts/base/material": "brass", "/parts/base/edge_radius": None}
    back = after(scene, taken(scene, {"group-1": "variant-1"}))
    assert back.parts == lantern().parts and present(back) == {"group-1": "variant-1"}
    again = after(back, taken(back, {"group-1": "variant-2"}))
    assert again == scene and taken(again, {"group-1": "variant-2"}).patch == []


def test_a_third_widens_the_others_by_what_it_alone_changes():
    scene = with_metals()
    third = edited(scene, ("replace", "/parts/base/material", "ink"), ("replace", "/parts/strap/visible", False))
    scene = after(third, kept(scene, third, "group-1"))
    values = {key: one.values["/parts/strap/visible"] for key, one in scene.variant_groups["group-1"].variants.items()}
    assert values == {"variant-1": True, "variant-2": True, "variant-3": False}
    assert scene.variant_groups["group-1"].variants["variant-3"].name == "Variant 3"
    back = after(scene, taken(scene, {"group-1": "variant-1"}))
    assert back.parts["strap"].visible and back.parts["base"].material == "brass"


def test_what_is_new_is_left_out_of_the_other_variants():
    scene = after(lantern(), begun(lantern()))
    lamp = PointLight(name="Lamp").model_dump(mode="json")
    lit = edited(
        scene,
        ("add", "/lights/lamp", lamp),
        ("add", "/parts/cup", Part(name="Cup", material="ink").model_dump(mode="json")),
    )
    scene = after(lit, kept(scene, lit, "group-1"))
    without = after(scene, taken(scene, {"group-1": "variant-1"}))
    assert not without.lights["lamp"].enabled and not without.parts["cup"].visible
    assert after(without, taken(without, {"group-1": "variant-2"})).lights["lamp"].enabled


def test_another_kind_of_thing_is_taken_as_a_whole():
    scene = edited(lantern(), ("add", "/lights/lamp", PointLight(name="Lamp").model_dump(mode="json")))
    scene = after(scene, begun(scene))
    other = edited(scene, ("replace", "/lights/lamp", RectangleLight(name="Lamp").model_dump(mode="json")))
    scene = after(other, kept(scene, other, "group-1"))
    assert after(scene, taken(scene, {"group-1": "variant-1"})).lights["lamp"].kind == "point"


def test_a_place_belongs_to_one_group():
    scene = with_metals()
    scene = after(scene, begun(scene))
    changed = edited(scene, ("replace", "/parts/base/material", "ink"), ("replace", "/parts/strap/material", "ink"))
    scene = after(changed, kept(scene, changed, "group-2", "Ink"))
    assert set(scene.variant_groups["group-2"].variants["variant-2"].values) == {"/parts/strap/material"}
    assert scene.variant_groups["group-2"].name == "Strap"
    assert differing(scene, "group-1") == ["/parts/base/material"], "that belongs to the metals, and waits there"
    alone = edited(scene, ("replace", "/parts/base/material", "cognac"))
    with pytest.raises(VariantError, match="belongs to other variants already: keep it in Base"):
        kept(scene, alone, "group-2")


def test_an_edit_under_a_variant_is_kept_in_it_or_in_all():
    scene = edited(with_metals(), ("replace", "/parts/base/edge_radius", 0.002))
    assert differing(scene, "group-1") == ["/parts/base/edge_radius"]
    only = after(scene, rewritten(scene, "group-1", everywhere=False)).variant_groups["group-1"].variants
    assert [one.values["/parts/base/edge_radius"] for one in only.values()] == [None, 0.002]
    everywhere = after(scene, rewritten(scene, "group-1", everywhere=True))
    assert {
        one.values["/parts/base/edge_radius"] for one in everywhere.variant_groups["group-1"].variants.values()
    } == {0.002}
    assert differing(everywhere, "group-1") == []


def test_nothing_changed_is_no_variant_and_what_is_gone_is_said():
    scene = after(lantern(), begun(lantern()))
    with pytest.raises(VariantError, match="Nothing has changed"):
        kept(scene, scene, "group-1")
    with pytest.raises(VariantError, match="gone"):
        kept(scene, scene, "group-9")
    with pytest.raises(VariantError, match="gone"):
        taken(scene, {"group-1": "variant-9"})


def test_what_is_gone_from_the_document_is_passed_over():
    scene = with_metals()
    del_part = read_scene(apply_operations(scene.plain(), [{"op": "remove", "path": "/parts/base"}])[0])
    assert after(del_part, taken(del_part, {"group-1": "variant-1"})).variant_groups["group-1"].chosen == "variant-1"


def with_straps():
    scene = with_metals()
    scene = after(scene, begun(scene))
    ink = edited(scene, ("replace", "/parts/strap/material", "ink"))
    return after(ink, kept(scene, ink, "group-2", "Ink"))


def test_editions_are_choices_of_all_groups_and_say_when_they_are_on():
    scene = with_straps()
    scene = after(scene, kept_edition(scene, "Steel & Ink"))
    assert edition_on(scene) == "edition-1" and scene.editions["edition-1"].choice == present(scene)
    other = after(scene, taken(scene, {"group-1": "variant-1", "group-2": "variant-1"}))
    assert edition_on(other) is None and other.parts == lantern().parts
    back = after(other, edition_taken(other, "edition-1"))
    assert back.parts == scene.parts and edition_on(back) == "edition-1"
    changed = edited(back, ("replace", "/parts/strap/material", "cognac"))
    assert edition_on(changed) is None, "something under it was changed"
    with pytest.raises(VariantError, match="No variant is on"):
        kept_edition(Scene())


def with_copies():
    """A lantern, three editions' worth of variants, and a copy of it in a group of its own."""
    scene = with_straps()
    scene = after(scene, kept_edition(scene, "Steel & Ink"))
    scene = after(scene, taken(scene, {"group-1": "variant-1", "group-2": "variant-1"}))
    operation = Duplicate(kind="duplicate", parts=("base", "strap"), count=1, step=(1, 0, 0))
    boxes = dict.fromkeys(scene.parts, ((-0.1, -0.1, -0.1), (0.1, 0.1, 0.1)))
    scene = after(scene, arranged(scene, operation, boxes))
    return scene, tuple(key for key in scene.parts if key not in ("base", "strap"))


def test_copies_wear_an_edition_of_their_own_and_keep_it():
    scene, copies = with_copies()
    dressed = after(scene, edition_worn(scene, "edition-1", copies))
    worn = {part.name: (part.material, part.edge_radius) for part in dressed.parts.values()}
    assert worn == {"Base": ("brass", None), "Strap": ("cognac", None), "Base 2": ("steel", 0.001),
                    "Strap 2": ("ink", None)}  # fmt: skip
    stands = {key: dressed.parts[key].offset for key in copies}
    assert stands == {key: scene.parts[key].offset for key in copies}
    later = after(dressed, edition_taken(dressed, "edition-1"))
    back = after(later, taken(later, {"group-1": "variant-1", "group-2": "variant-1"}))
    assert all(back.parts[key] == dressed.parts[key] for key in copies), "the project changes, the copies do not"
    with pytest.raises(VariantError, match="wear it already"):
        edition_worn(dressed, "edition-1", copies)
    with pytest.raises(VariantError, match="choose copies"):
        edition_worn(scene, "edition-1", ("base",))
    with pytest.raises(VariantError, match="edition is gone"):
        edition_worn(scene, "edition-9", copies)


def test_a_material_that_variants_change_is_copied_for_the_copies():
    scene, copies = with_copies()
    scene = after(scene, begun(scene))
    rough = edited(scene, ("replace", "/materials/cognac/specular_roughness", 0.9))
    scene = after(rough, kept(scene, rough, "group-3", "Rough"))
    scene = after(scene, kept_edition(scene, "Rough"))
    scene = after(scene, taken(scene, {"group-3": "variant-1"}))
    dressed = after(scene, edition_worn(scene, "edition-2", copies))
    [strap] = [part for part in dressed.parts.values() if part.name == "Strap 2"]
    own = dressed.materials[strap.material]
    assert strap.material != "cognac" and own.specular_roughness == 0.9 and own.name == "Cognac, Rough"
    assert dressed.materials["cognac"] == scene.materials["cognac"]


def test_of_two_editions_that_are_on_the_one_that_says_more_is_meant():
    scene = with_metals()
    scene = after(scene, kept_edition(scene, "Steel"))
    scene = after(scene, begun(scene))
    ink = edited(scene, ("replace", "/parts/strap/material", "ink"))
    scene = after(ink, kept(scene, ink, "group-2", "Ink"))
    assert edition_on(scene) == "edition-1"
    scene = after(scene, kept_edition(scene, "Steel & Ink"))
    assert edition_on(scene) == "edition-2"


def test_combinations_are_counted_and_rules_forbid_some():
    scene = with_straps()
    assert combinations(scene) == combinations(scene).__class__(4, 4)
    rule = Exclusion(together={"group-1": "variant-2", "group-2": "variant-1"})
    scene = scene.model_copy(update={"exclusions": (rule,)})
    assert (combinations(scene).all, combinations(scene).allowed) == (4, 3)
    with pytest.raises(VariantError, match="Steel and As it was do not go together"):
        taken(scene, {"group-2": "variant-1"})
    assert taken(scene, {"group-1": "variant-1", "group-2": "variant-1"}).patch


def test_a_variant_changes_what_is_shown_and_nothing_else():
    for path in ("/print/width", "/variant_groups/x", "/parts", "parts/a/b", "/asset/scale"):
        with pytest.raises(SceneError):
            edited(with_metals(), ("replace", "/variant_groups/group-1/variants/variant-1/values", {path: 1}))


def test_what_a_variant_changes_is_said_in_words():
    scene = after(lantern(), begun(lantern()))
    changed = edited(
        scene,
        ("replace", "/parts/base/material", "steel"),
        ("replace", "/parts/base/edge_radius", 0.0015),
        ("replace", "/parts/strap/visible", False),
        ("replace", "/materials/ink/base_color", [0.0, 0.0, 1.0]),
        ("replace", "/look/exposure", 1.25),
        ("replace", "/camera/projection", "orthographic"),
        ("replace", "/parts/strap/offset", [0.0, 0.1, 0.0]),
    )
    scene = after(changed, kept(scene, changed, "group-1"))
    said = words_of(scene, "group-1", "variant-2")
    assert "Base: material Brass → Steel" in said
    assert "Base: rounded in shading sharp → 0.0015 m" in said
    assert "Strap: hidden" in said and "Look: exposure 0 EV → 1.25 EV" in said
    assert any(one.startswith("Ink: base colour #") and one.endswith("→ #0000ff") for one in said)
    assert "Camera: projection Perspective → Orthographic" in said
    assert any(one.startswith("Strap: ") and one.endswith(" changed") for one in said)
    assert words_of(scene, "group-1", "variant-1")[0].endswith("Steel → Brass")
    alone = after(lantern(), begun(lantern()))
    assert words_of(alone, "group-1", "variant-1") == []


def test_what_is_gone_is_still_said():
    scene = with_metals()
    gone = read_scene(apply_operations(scene.plain(), [{"op": "remove", "path": "/parts/base"}])[0])
    assert words_of(gone, "group-1", "variant-2")[0] == "Parts: material Brass → Steel"


def test_another_file_is_taken_by_its_whole_reference_so_that_it_is_found_in_the_document():
    """Half of one would not be seen where files that nobody names are collected."""
    first, second = ({"sha256": digit * 64, "name": f"{digit}.exr"} for digit in "12")
    scene = edited(lantern(), ("replace", "/environment/map", first))
    scene = after(scene, begun(scene))
    other = edited(scene, ("replace", "/environment/map", second))
    scene = after(other, kept(scene, other, "group-1"))
    values = [one.values for one in scene.variant_groups["group-1"].variants.values()]
    assert values == [{"/environment/map": first}, {"/environment/map": second}]
    assert {file.name for file in files_in(scene.plain())} == {"1.exr", "2.exr"}
    assert after(scene, taken(scene, {"group-1": "variant-1"})).environment.map.name == "1.exr"


def test_all_go_back_to_their_defaults_by_one_step():
    scene = with_metals()
    with pytest.raises(VariantError, match="No variant is a default"):
        defaults_taken(scene)
    scene = edited(after(scene, begun(scene)), ("replace", "/variant_groups/group-1/default", "variant-1"))
    back = after(scene, defaults_taken(scene))
    assert present(back) == {"group-1": "variant-1", "group-2": "variant-1"} and back.parts["base"].material == "brass"
    assert defaults_taken(back).patch == []
    gone = edited(back, ("replace", "/variant_groups/group-1/default", "variant-9"))
    with pytest.raises(VariantError, match="No variant is a default"):
        defaults_taken(gone)
