"""Edits, undo and redo; who may do what."""

import pytest

from lantern.scene.reading import SceneError
from server.errors import Missing, Refused
from server.prints.actions import QueuePrint
from server.projects.actions import ApplyEdit, Redo, Undo
from server.projects.keeping import DeleteProject
from server.projects.models import Project

pytestmark = pytest.mark.django_db


def exposure(value):
    return [{"op": "replace", "path": "/look/exposure", "value": value}]


def shown(project):
    return Project.objects.get(pk=project.pk).document().look.exposure


def test_edit_undo_redo(people, project):
    owner = people["owner"]
    for value in (1.0, 2.0, 3.0):
        ApplyEdit(owner, project.pk, exposure(value), "Exposure").execute()
    assert shown(project) == 3
    Undo(owner, project.pk).execute()
    Undo(owner, project.pk).execute()
    assert shown(project) == 1
    after = Redo(owner, project.pk).execute()
    assert shown(project) == 2 and after.can_redo and after.can_undo
    after = ApplyEdit(owner, project.pk, exposure(9.0), "Exposure").execute()
    assert not after.can_redo, "a new edit drops what was undone"
    assert [e.label for e in after.edits.all()] == ["Exposure"] * 3
    assert after.revision == 8  # every change of the document counts


def test_undo_and_redo_have_ends(people, project):
    with pytest.raises(Refused, match="nothing to undo"):
        Undo(people["owner"], project.pk).execute()
    with pytest.raises(Refused, match="nothing to redo"):
        Redo(people["owner"], project.pk).execute()


@pytest.mark.parametrize(
    "patch",
    [
        [],
        [{"op": "replace", "path": "/look/exposure", "value": "bright"}],
        [{"op": "remove", "path": "/materials/red-enamel"}],
    ],
)
def test_a_bad_edit_changes_nothing(people, project, patch):
    with pytest.raises((Refused, SceneError)):
        ApplyEdit(people["owner"], project.pk, patch, "Bad").execute()
    fresh = Project.objects.get(pk=project.pk)
    assert (fresh.scene, fresh.revision, fresh.edits.count()) == (project.scene, 1, 0)


def test_an_edit_may_only_refer_to_stored_files(people, project):
    patch = [{"op": "replace", "path": "/environment/map", "value": {"sha256": "0" * 64, "name": "x.hdr"}}]
    with pytest.raises(Refused, match=r"x\.hdr is not stored"):
        ApplyEdit(people["owner"], project.pk, patch, "Light").execute()


def test_an_edit_that_changes_nothing_is_no_step_of_undo(people, project):
    same = ApplyEdit(people["owner"], project.pk, exposure(0.0), "Exposure").execute()
    assert not same.can_undo and same.revision == 1


ACTIONS = {
    "edit": lambda person, number: ApplyEdit(person, number, exposure(1.0), "").execute(),
    "undo": lambda person, number: Undo(person, number).execute(),
    "print": lambda person, number: QueuePrint(person, number).execute(),
    "delete": lambda person, number: DeleteProject(person, number).execute(),
}


@pytest.mark.parametrize("action", ACTIONS)
@pytest.mark.parametrize(("person", "allowed"), [("owner", True), ("superuser", True), ("stranger", False)])
def test_permission_matrix(people, project, action, person, allowed):
    ApplyEdit(people["owner"], project.pk, exposure(0.5), "").execute()
    if allowed:
        ACTIONS[action](people[person], project.pk)
    else:
        with pytest.raises(Missing):
            ACTIONS[action](people[person], project.pk)


def test_http_hides_what_is_not_yours(client, people, project):
    url = f"/api/v1/projects/{project.pk}"
    assert client.get(url).status_code == 401
    client.force_login(people["stranger"])
    assert client.get(url).status_code == 404 and client.get("/api/v1/projects").json()["items"] == []
    client.force_login(people["owner"])
    assert client.get(url).json()["scene"]["parts"]["square"]["name"] == "Square"


def test_signing_in_and_out(client, people):
    assert client.get("/api/v1/session").json()["username"] is None
    refused = client.post("/api/v1/session", {"username": "ada", "password": "no"}, content_type="application/json")
    assert refused.status_code == 403 and "do not belong together" in refused.json()["detail"]
    good = client.post("/api/v1/session", {"username": "ada", "password": "lamp-oil"}, content_type="application/json")
    assert good.json()["username"] == "ada"
    assert client.delete("/api/v1/session").json()["username"] is None


def test_changing_requests_need_the_token(people):
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    assert (
        strict.post(
            "/api/v1/session", {"username": "ada", "password": "lamp-oil"}, content_type="application/json"
        ).status_code
        == 403
    )
    token = strict.get("/api/v1/session").json()["csrf_token"]
    headers = {"X-CSRFToken": token}
    answer = strict.post(
        "/api/v1/session", {"username": "ada", "password": "lamp-oil"}, content_type="application/json", headers=headers
    )
    assert answer.status_code == 200
