"""A variant kept by what has changed since the last one, found in the steps of undo; questions about variants."""

import json

import pytest

from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from server.errors import Refused
from server.host.answers import answer
from server.projects.actions import ApplyEdit, Undo
from server.projects.variants import variant_to_keep
from server.protocol import variants as asked
from tests.core.test_variants import lantern, with_straps
from tests.server.panes import opened

pytestmark = pytest.mark.django_db(transaction=True)


def put(person, project, *operations, label="Edit"):
    patch = [{"op": op, "path": path, "value": value} for op, path, value in operations]
    ApplyEdit(person, project.pk, patch, label).execute()
    project.refresh_from_db()


def begun_in(people, project):
    """A project with two parts to tell apart, and a group that is begun."""
    owner = people["owner"]
    scene = lantern().plain()
    put(owner, project, ("replace", "/materials", scene["materials"]), ("replace", "/parts", scene["parts"]))
    group = {"name": "Variants 1", "variants": {"variant-1": {"name": "As it was", "values": {}}},
             "order": ["variant-1"], "chosen": "variant-1"}  # fmt: skip
    put(owner, project, ("add", "/variant_groups/group-1", group))
    return owner


def test_a_variant_is_what_was_changed_since_by_any_number_of_edits_without_what_was_undone(client, people, project):
    owner = begun_in(people, project)
    put(owner, project, ("replace", "/parts/base/material", "ink"))
    put(owner, project, ("replace", "/parts/base/material", "steel"))
    put(owner, project, ("replace", "/print/width", 777))
    put(owner, project, ("replace", "/parts/strap/visible", False))
    Undo(owner, project.pk).execute()
    client.force_login(owner)
    answer_ = client.post(
        f"/api/v1/projects/{project.pk}/variants",
        json.dumps({"group": "group-1", "name": "Steel"}),
        content_type="application/json",
    )
    made = answer_.json()
    assert answer_.status_code == 200 and made["label"] == "Keep Steel of Base"
    project.refresh_from_db()
    kept = read_scene(apply_operations(project.scene, made["patch"])[0]).variant_groups["group-1"]
    assert [one.values for one in kept.variants.values()] == [
        {"/parts/base/material": "brass"},
        {"/parts/base/material": "steel"},
    ]
    ApplyEdit(owner, project.pk, made["patch"], made["label"]).execute()
    with pytest.raises(Refused, match="Nothing has changed"):
        variant_to_keep(owner, project.pk, "group-1", None)


def ask(view, engine, question):
    return answer(question, engine, view, None)


@pytest.fixture
def dressed():
    """A pane on a document with two groups of two, of which the second are on."""
    view, engine = opened([])
    engine.open(with_straps(), None)
    yield view, engine
    engine.close()


def test_variants_and_editions_are_taken_and_it_is_said_what_is_on(dressed):
    view, engine = dressed
    found = ask(view, engine, asked.VariantsStanding(type="variants_standing", pane=0, request="1"))
    assert (found.combinations, found.allowed, found.edition, found.changed) == (4, 4, None, ())
    kept = ask(view, engine, asked.KeepEdition(type="keep_edition", pane=0, request="2")).made
    engine.apply(read_scene(apply_operations(engine.scene.plain(), kept.patch)[0]), None)
    found = ask(view, engine, asked.VariantsStanding(type="variants_standing", pane=0, request="3"))
    assert found.edition == kept.key
    taken = asked.TakeVariant(type="take_variant", pane=0, group="group-1", variant="variant-1", request="4")
    made = ask(view, engine, taken).made
    other = read_scene(apply_operations(engine.scene.plain(), made.patch)[0])
    assert other.parts["base"].material == "brass" and not engine.apply(other, None).recompiled
    edition = asked.TakeEdition(type="take_edition", pane=0, edition=kept.key, request="5")
    assert [step["path"] for step in ask(view, engine, edition).made.patch][-1] == "/variant_groups/group-1/chosen"
    seen = ask(view, engine, asked.EditionPicture(type="edition_picture", pane=0, edition=kept.key, request="6"))
    assert seen.picture.startswith("data:image/jpeg;base64,") and engine.scene == other


def test_what_cannot_be_taken_is_said(dressed):
    view, engine = dressed
    gone = asked.TakeVariant(type="take_variant", pane=0, group="group-1", variant="variant-9", request="1")
    assert "gone" in ask(view, engine, gone).problem
    gone = asked.RewriteVariant(type="rewrite_variant", pane=0, group="group-9", everywhere=True, request="2")
    assert "gone" in ask(view, engine, gone).problem
    rule = {
        "op": "add",
        "path": "/exclusions/-",
        "value": {"together": {"group-1": "variant-1", "group-2": "variant-2"}},
    }
    engine.apply(read_scene(apply_operations(engine.scene.plain(), [rule])[0]), None)
    taken = asked.TakeVariant(type="take_variant", pane=0, group="group-1", variant="variant-1", request="3")
    assert "do not go together" in ask(view, engine, taken).problem
    found = ask(view, engine, asked.VariantsStanding(type="variants_standing", pane=0, request="4"))
    assert found.against == (("group-1", "variant-1"),)
