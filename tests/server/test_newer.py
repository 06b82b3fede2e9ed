"""Newer versions of an asset, and other assets beside it: offered, matched by hand, taken, taken back."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from lantern.scene import variants
from lantern.scene.patching import apply_operations
from lantern.scene.presence import seen
from lantern.scene.reading import read_scene
from server.intake import working
from server.intake.models import Upload
from server.projects.actions import ApplyEdit, Undo
from server.projects.models import Project
from tests.core.gltf_files import glb
from tests.core.odd_asset import odd_glb
from tests.server.test_intake import bring

pytestmark = pytest.mark.django_db(transaction=True)


def brought_into(client, project, name, content, **fields):
    """The state of an upload that is a newer version of a project's asset, after the worker has been at it."""
    form = {"file": SimpleUploadedFile(name, content), "swaps": project} | fields
    answer = client.post("/api/v1/intake/asset", form)
    if answer.status_code != 200:
        return answer.json()
    working.work_on(answer.json()["id"])
    return client.get(f"/api/v1/uploads/{answer.json()['id']}").json()


def test_a_newer_version_is_offered_and_taken(client, people):
    """Its lid is gone and its ball is called otherwise; what was done to the ball stays, undo brings the lid back."""
    owner = people["owner"]
    client.force_login(owner)
    _, state = bring(client, "odd.glb", odd_glb())
    number = state["result"]
    lifted = [{"op": "replace", "path": "/parts/mesh-0422/offset", "value": [0, 5, 0]}]
    ApplyEdit(owner, number, lifted, "Lift").execute()
    newer = odd_glb(names=("Foot", "Mesh_0422", "Mesh_0423", None, "Mesh_0425"))
    state = brought_into(client, number, "odd-2.glb", newer)
    assert state["state"] == "done" and state["result"] == number, state
    table = {row["name"]: row["state"] for row in state["offer"]["table"]}
    assert table == {
        "Mesh_0421": "same", "Mesh_0422": "same", "Mesh_0423": "same", "Mesh_0425": "same", "Mesh_0424": "gone",
    }  # fmt: skip
    before = client.get(f"/api/v1/projects/{number}").json()
    assert before["scene"]["asset"]["file"]["name"] == "odd.glb", "nothing is changed unasked"
    assert client.post(f"/api/v1/uploads/{state['id']}/take", content_type="application/json").status_code == 200
    after = client.get(f"/api/v1/projects/{number}").json()
    assert after["scene"]["asset"]["file"]["name"] == "odd-2.glb" and len(after["scene"]["parts"]) == 4
    assert after["scene"]["parts"]["mesh-0422"]["offset"] == [0, 5, 0]
    assert "open" not in {finding["kind"] for finding in after["report"]}, "the lid had the open edges"
    Undo(owner, number).execute()
    again = client.get(f"/api/v1/projects/{number}").json()
    assert again["scene"] == before["scene"] and again["report"] == before["report"]


def test_parts_of_a_newer_version_are_matched_by_hand(client, people):
    """The lid has another name and another shape; whoever knows that says so, and it keeps what was made of it."""
    owner = people["owner"]
    client.force_login(owner)
    _, state = bring(client, "odd.glb", odd_glb())
    number = state["result"]
    painted = [{"op": "replace", "path": "/parts/mesh-0424/offset", "value": [0, 7, 0]}]
    ApplyEdit(owner, number, painted, "Lift").execute()
    newer = odd_glb(names=("Mesh_0421", "Mesh_0422", "Mesh_0423", "Cover", "Mesh_0425"), open_size=1.25)
    state = brought_into(client, number, "odd-2.glb", newer)
    rows = {row["key"]: row["state"] for row in state["offer"]["table"]}
    assert (rows["mesh-0424"], rows["cover"]) == ("gone", "new")

    def taken(**matches):
        body = {"matches": matches}
        return client.post(f"/api/v1/uploads/{state['id']}/take", body, content_type="application/json")

    for wrong in ({"mesh-0421": "mesh-0424"}, {"cover": "mesh-0422"}, {"lid": "mesh-0424"}):
        refused = taken(**wrong)
        assert refused.status_code == 422 and "cannot be taken" in refused.json()["detail"]
    assert taken(cover="mesh-0424").status_code == 200
    parts = client.get(f"/api/v1/projects/{number}").json()["scene"]["parts"]
    assert len(parts) == 5 and "cover" not in parts
    assert (parts["mesh-0424"]["name"], parts["mesh-0424"]["offset"]) == ("Mesh_0424", [0, 7, 0])
    Undo(owner, number).execute()


def test_another_asset_is_added_beside_and_a_newer_version_of_it_is_known_by_its_name(client, people):
    owner = people["owner"]
    client.force_login(owner)
    number = bring(client, "odd.glb", odd_glb())[1]["result"]
    before = client.get(f"/api/v1/projects/{number}").json()["scene"]
    state = brought_into(client, number, "square.glb", glb(), joins="true")
    assert state["state"] == "done", state
    (row,) = state["offer"]["table"]
    assert client.post(f"/api/v1/uploads/{state['id']}/take", content_type="application/json").status_code == 200
    after = client.get(f"/api/v1/projects/{number}").json()["scene"]
    assert after["asset"]["file"]["name"] == "odd and 1 more.zip" and after["asset"]["name"] == before["asset"]["name"]
    group = after["parts"][row["key"]]["group"]
    assert len(after["parts"]) == 6 and after["part_groups"][group]["offset"][0] > 0
    assert {key: part for key, part in after["parts"].items() if key != row["key"]} == before["parts"]
    undone = brought_into(client, number, "else.glb", glb())
    assert "Give it the name of one of them: odd.glb, square.glb" in undone["error"]
    newer = brought_into(client, number, "odd.glb", odd_glb(names=("Mesh_0421", None, None, None, None)))
    states = [each["state"] for each in newer["offer"]["table"]]
    assert (states.count("gone"), states.count("same")) == (4, 2), "the square is as before"
    assert client.post(f"/api/v1/uploads/{newer['id']}/take", content_type="application/json").status_code == 200
    labels = [entry.label for entry in Project.objects.get(pk=number).edits.order_by("pk")][-2:]
    assert labels == ["Add square.glb", "Newer version of the asset"]
    Undo(owner, number).execute()
    Undo(owner, number).execute()
    assert client.get(f"/api/v1/projects/{number}").json()["scene"] == before


def test_another_asset_in_its_place_is_a_variant_of_it_in_one_step(client, people):
    owner = people["owner"]
    client.force_login(owner)
    number = bring(client, "odd.glb", odd_glb())[1]["result"]
    path = f"/api/v1/projects/{number}"
    before = client.get(path).json()["scene"]
    state = brought_into(client, number, "square.glb", glb(), joins="true")
    taken = client.post(f"/api/v1/uploads/{state['id']}/take", {"as_variant": True}, content_type="application/json")
    assert taken.status_code == 200
    scene = read_scene(client.get(path).json()["scene"])
    [row] = state["offer"]["table"]
    assert [key for key, part in seen(scene).parts.items() if part.visible] == [row["key"]]
    assert scene.part_groups[scene.parts[row["key"]].group].offset == (0, 0, 0), "it stands in the place of the other"
    [(key, group)] = scene.variant_groups.items()
    assert [one.name for one in group.variants.values()] == [before["asset"]["name"], "square"]
    back = read_scene(apply_operations(scene.plain(), variants.taken(scene, {key: "variant-1"}).patch)[0])
    assert {each for each, part in seen(back).parts.items() if part.visible} == set(before["parts"])
    assert back.parts.keys() == scene.parts.keys() and all(part.visible for part in scene.parts.values())
    Undo(owner, number).execute()
    assert client.get(path).json()["scene"] == before


def test_only_ones_own_project_takes_a_newer_version_and_only_of_an_asset(client, people, project):
    client.force_login(people["stranger"])
    assert "no project" in brought_into(client, project.pk, "square.glb", glb())["detail"]
    client.force_login(people["owner"])
    state = brought_into(client, project.pk, "notes.glb", b"no asset at all")
    assert state["state"] == "failed" and "notes.glb: is neither" in state["error"] and state["offer"] is None
    refused = client.post(f"/api/v1/uploads/{state['id']}/take", content_type="application/json")
    assert refused.status_code == 422 and "no newer version" in refused.json()["detail"]


def test_an_offer_of_whole_entries_does_not_undo_what_was_edited_meanwhile(client, people):
    owner = people["owner"]
    client.force_login(owner)
    number = bring(client, "odd.glb", odd_glb())[1]["result"]
    state = brought_into(client, number, "odd-2.glb", odd_glb(names=("Foot", "Mesh_0422", None, None, "Mesh_0425")))
    upload = Upload.objects.get(pk=state["id"])
    assert upload.offer["revision"] is None, "few fields: it is laid on whatever is there"
    upload.offer = upload.offer | {"revision": 1}
    upload.save()
    ApplyEdit(owner, number, [{"op": "replace", "path": "/parts/mesh-0422/name", "value": "Ball"}], "Rename").execute()
    refused = client.post(f"/api/v1/uploads/{upload.pk}/take", content_type="application/json")
    assert refused.status_code == 422 and "was changed since" in refused.json()["detail"]
    Undo(owner, number).execute()
    upload.offer = upload.offer | {"revision": 3}
    upload.save()
    assert client.post(f"/api/v1/uploads/{upload.pk}/take", content_type="application/json").status_code == 200
