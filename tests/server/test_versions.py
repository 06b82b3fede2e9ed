"""Projects that an earlier version stored: opened, edited, undone and redone to both ends."""

import pytest

from lantern.scene.document import SCHEMA_VERSION
from lantern.scene.reading import read_scene
from server.errors import Refused
from server.live.snapshot import Snapshot
from server.projects.actions import ApplyEdit, Redo, Undo
from server.projects.models import Edit, Project
from tests.kept import VERSIONS, kept

pytestmark = [pytest.mark.django_db, pytest.mark.parametrize("version", VERSIONS)]
EXPOSURE = [{"op": "replace", "path": "/look/exposure", "value": -2.5}]


@pytest.fixture
def stored(people, version):
    """The project as that version left it in the database."""
    was = kept(version)
    project = Project.objects.create(owner=people["owner"], name="Old", scene=was.scene, cursor=was.cursor)
    for number, edit in enumerate(was.edits, 1):
        Edit.objects.create(project=project, number=number, author=people["owner"], **edit)
    return project


@pytest.fixture
def wanted(version):
    """Its documents as today's program reads them, from the first to the last."""
    return [read_scene(document).plain() for document in kept(version).documents]


def scene(project):
    return Project.objects.get(pk=project.pk).scene


def test_undone_to_the_first_and_redone_to_the_last(people, stored, wanted):
    for number in range(stored.cursor - 1, -1, -1):
        Undo(people["owner"], stored.pk).execute()
        assert scene(stored) == wanted[number], f"undo to {number}"
    with pytest.raises(Refused, match="nothing to undo"):
        Undo(people["owner"], stored.pk).execute()
    for number in range(1, len(wanted)):
        Redo(people["owner"], stored.pk).execute()
        assert scene(stored) == wanted[number], f"redo to {number}"


def test_edited_and_taken_back(people, stored, wanted):
    after = ApplyEdit(people["owner"], stored.pk, EXPOSURE, "Exposure").execute()
    assert after.document().look.exposure == -2.5 and not after.can_redo
    Undo(people["owner"], stored.pk).execute()
    Undo(people["owner"], stored.pk).execute()
    assert scene(stored) == wanted[stored.cursor - 1]
    Redo(people["owner"], stored.pk).execute()
    Redo(people["owner"], stored.pk).execute()
    assert scene(stored)["look"]["exposure"] == -2.5


def test_what_the_window_edits_is_what_the_database_will_have(people, stored, wanted):
    """A window gets today's document before anything is stored: a patch made on it fits."""
    shown = Snapshot.opened(Project.objects.get(pk=stored.pk)).scene
    assert shown == wanted[stored.cursor] and shown["schema_version"] == SCHEMA_VERSION
    light = next(iter(shown["lights"]))
    patch = [{"op": "replace", "path": f"/lights/{light}/temperature", "value": 4000}]
    ApplyEdit(people["owner"], stored.pk, patch, "Temperature", base=stored.revision).execute()
    assert scene(stored)["lights"][light]["temperature"] == 4000


def test_over_http_it_is_todays_document(client, people, stored, wanted):
    client.force_login(people["owner"])
    assert client.get(f"/api/v1/projects/{stored.pk}").json()["scene"] == wanted[stored.cursor]


def test_steps_that_cannot_be_understood_are_dropped_not_the_project(people, stored, wanted):
    stored.edits.filter(number=stored.cursor).update(inverse=[{"op": "fly", "path": "/x"}])
    after = ApplyEdit(people["owner"], stored.pk, EXPOSURE, "Exposure").execute()
    assert [edit.number for edit in after.edits.all()] == [stored.cursor + 1]
    after = Undo(people["owner"], stored.pk).execute()
    assert after.scene == wanted[stored.cursor] and not after.can_undo and after.can_redo
