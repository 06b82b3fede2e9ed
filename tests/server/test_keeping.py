"""What is kept and what goes: names, copies, archives, files that nothing names, the length of a history."""

from datetime import timedelta
from pathlib import Path

import pytest
from django.utils import timezone

from lantern.scene.model import FileRef
from lantern.scene.rigs import Rig
from lantern.scene.surroundings import Environment
from server.administration.collecting import collect_files
from server.library.actions import AddEnvironment
from server.library.models import EnvironmentItem
from server.library.rigs import KeepRig, TakeOffRig
from server.prints.actions import QueuePrint
from server.projects import actions
from server.projects.actions import ApplyEdit, Undo
from server.projects.keeping import DeleteProject
from server.projects.models import Cover, Project, StoredFile

pytestmark = pytest.mark.django_db
FACTS = {"width": 4, "height": 2, "luminance": 1.0, "problems": [], "thumbnail": b"\xff\xd8\xff"}


def exposure(value):
    return [{"op": "replace", "path": "/look/exposure", "value": value}]


def change(client, project, **fields):
    return client.patch(f"/api/v1/projects/{project.pk}", fields, content_type="application/json")


def test_a_project_is_renamed_and_put_away_and_taken_back(client, people, project):
    client.force_login(people["owner"])
    assert change(client, project, name="  Wick \n No. 5 ").json()["name"] == "Wick No. 5"
    assert change(client, project, archived=True).json()["archived"] is True
    assert [p["archived"] for p in client.get("/api/v1/projects").json()["items"]] == [True]
    assert change(client, project, archived=False).json() | {"updated": 0} == {
        "id": project.pk, "name": "Wick No. 5", "revision": 1, "archived": False, "updated": 0, "cover": None,
    }  # fmt: skip
    for bad in ("", " \x00 ", "x" * 201):
        assert "1 to 200 characters" in change(client, project, name=bad).json()["detail"]


def test_a_copy_is_as_the_project_is_now_without_its_past(client, people, project):
    ApplyEdit(people["owner"], project.pk, exposure(2.0), "Exposure").execute()
    Cover.objects.create(project=project, picture=b"jpeg")
    client.force_login(people["superuser"])
    made = client.post(f"/api/v1/projects/{project.pk}/copy").json()
    copy = Project.objects.get(pk=made["id"])
    assert (copy.name, copy.owner, copy.revision, copy.can_undo) == ("Square copy", people["superuser"], 1, False)
    assert copy.scene == Project.objects.get(pk=project.pk).scene and bytes(copy.cover.picture) == b"jpeg"
    ApplyEdit(people["superuser"], copy.pk, exposure(-1.0), "Exposure").execute()
    assert Project.objects.get(pk=project.pk).scene["look"]["exposure"] == 2.0
    asset = StoredFile.objects.get(sha256=copy.scene["asset"]["file"]["sha256"])
    assert people["superuser"] in asset.readers.all()


def test_a_history_has_an_end(people, project, monkeypatch):
    monkeypatch.setattr(actions, "MOST_EDITS", 5)
    for value in range(1, 9):
        ApplyEdit(people["owner"], project.pk, exposure(float(value)), "E").execute()
    assert [edit.number for edit in project.edits.all()] == [4, 5, 6, 7, 8]
    for _ in range(5):
        after = Undo(people["owner"], project.pk).execute()
    assert after.scene["look"]["exposure"] == 3.0 and not after.can_undo and after.can_redo


@pytest.mark.django_db(transaction=True)
def test_a_print_goes_with_its_files(client, people, project):
    client.force_login(people["owner"])
    printed = QueuePrint(people["owner"], project.pk).execute()
    printed.folder.mkdir(parents=True)
    (printed.folder / "film.npz").write_bytes(b"x")
    assert "cancel it first" in client.delete(f"/api/v1/prints/{printed.pk}").json()["detail"]
    client.post(f"/api/v1/prints/{printed.pk}/cancel")
    assert client.delete(f"/api/v1/prints/{printed.pk}").status_code == 204
    assert not printed.folder.exists() and client.get(f"/api/v1/projects/{project.pk}/prints").json()["items"] == []


def test_only_files_that_nothing_names_are_collected(client, people, project, tmp_path):
    """In a document, a step of undo, a print, on a shelf: each keeps its file; with the last of them it goes."""
    owner = people["owner"]
    (tmp_path / "map.hdr").write_bytes(b"light")
    item = AddEnvironment(owner, tmp_path / "map.hdr", "map.hdr", "Map", FACTS).execute()
    digest = item.file.sha256
    path, asset = StoredFile.objects.get(sha256=digest).file.path, project.scene["asset"]["file"]["sha256"]

    def collected():
        StoredFile.objects.update(created=timezone.now() - timedelta(days=2))
        collect_files()
        return set(StoredFile.objects.values_list("sha256", flat=True))

    assert collected() == {digest, asset}
    lit = [{"op": "replace", "path": "/environment/map", "value": {"sha256": digest, "name": "map.hdr"}}]
    ApplyEdit(owner, project.pk, lit, "Map").execute()
    client.force_login(owner)
    assert client.delete(f"/api/v1/environments/{item.pk}").status_code == 204
    assert EnvironmentItem.objects.count() == 0 and digest in collected(), "the document names it"
    Undo(owner, project.pk).execute()
    assert digest in collected(), "redo would need it"
    printed = QueuePrint(owner, project.pk).execute()
    printed.scene["environment"]["map"] = lit[0]["value"]
    printed.save()
    project.edits.all().delete()
    assert digest in collected(), "a print that waits needs it"
    lighting = Rig(name="R", environment=Environment(map=FileRef(**lit[0]["value"])))
    kept = KeepRig(owner, lighting).execute()
    printed.delete()
    assert digest in collected(), "a rig of somebody needs it"
    TakeOffRig(owner, kept.key).execute()
    assert collected() == {asset}
    assert not Path(path).exists()
    DeleteProject(owner, project.pk).execute()
    assert collected() == set()


def test_young_files_are_left_alone(people, tmp_path):
    (tmp_path / "map.hdr").write_bytes(b"light")
    AddEnvironment(people["owner"], tmp_path / "map.hdr", "map.hdr", "Map", FACTS).execute().delete()
    assert collect_files() == 0 and StoredFile.objects.count() == 1
