"""Backup and restore: everything back as it was, while people are at it."""

import asyncio
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from asgiref.sync import sync_to_async
from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.storage import storages
from django.core.management import CommandError, call_command
from django.db import connections

from server.administration import backup
from server.administration.backup import BackupError, back_up
from server.administration.collecting import collect_files
from server.administration.restore import restore
from server.intake.models import Upload
from server.live.sessions import sessions
from server.prints import working
from server.prints.actions import DeletePrint, QueuePrint
from server.prints.models import Print
from server.projects.actions import ApplyEdit, Undo
from server.projects.keeping import DeleteProject, RenameProject
from server.projects.models import Edit, Project, StoredFile
from server.runtime.file_lock import files_stay
from tests.server.test_viewport import is_type, joined, leave, until

pytestmark = pytest.mark.django_db(transaction=True)
MODELS = (get_user_model(), Project, Edit, StoredFile, Print, Upload)


@pytest.fixture(autouse=True)
def _data_of_its_own(settings, tmp_path):
    settings.DATA = tmp_path


def exposure(value):
    return [{"op": "replace", "path": "/look/exposure", "value": value}]


def rows():
    return {model.__name__: list(model.objects.order_by("pk").values()) for model in MODELS}


def stored():
    """Every file of every storage."""
    found = {}
    for alias in ("default", "prints", "uploads"):
        root = Path(storages[alias].location)
        found |= {(alias, str(p.relative_to(root))): p.read_bytes() for p in root.rglob("*") if p.is_file()}
    return found


def elsewhere(work):
    """Do something as another process would, with a connection of its own."""

    def connected():
        try:
            return work()
        finally:
            connections.close_all()

    with ThreadPoolExecutor(1) as thread:
        return thread.submit(connected).result()


@pytest.fixture
def busy(people, project):
    """A server with something of everything: edits, a finished print, an upload that waits."""
    ApplyEdit(people["owner"], project.pk, exposure(1.0), "Exposure").execute()
    ApplyEdit(people["owner"], project.pk, exposure(2.0), "Exposure").execute()
    Undo(people["owner"], project.pk).execute()
    working.work_on(QueuePrint(people["owner"], project.pk).execute().pk)
    upload = Upload.objects.create(owner=people["owner"], kind="asset", file_name="a.glb")
    storages["uploads"].save(upload.stored_name, ContentFile(b"glTF"))
    return project


def test_what_was_restored_is_equal(people, busy, tmp_path):
    before_rows, before_files = rows(), stored()
    call_command("backup", str(tmp_path / "all.zip"))
    ApplyEdit(people["owner"], busy.pk, exposure(-3.0), "Exposure").execute()
    RenameProject(people["owner"], busy.pk, "Another name").execute()
    DeletePrint(people["owner"], Print.objects.get().pk).execute()
    get_user_model().objects.create_user("late", password="x")
    for path in Path(storages["default"].location).rglob("*"):
        if path.is_file():
            path.unlink()
    call_command("restore", str(tmp_path / "all.zip"), "--yes")
    assert rows() == before_rows
    assert stored() == before_files
    again = ApplyEdit(people["owner"], busy.pk, exposure(5.0), "Exposure").execute()
    assert again.revision == Project.objects.get(pk=busy.pk).revision
    Undo(people["owner"], busy.pk).execute()
    assert Project.objects.get(pk=busy.pk).scene["look"]["exposure"] == 1.0, "the document is that of the backup"


def test_a_backup_is_of_one_moment(people, busy, tmp_path, monkeypatch):
    """What changes while it is being made is not in it, and what it names is not removed meanwhile."""
    real = backup._dump

    def dump_while_somebody_works(target, snapshot):
        def work():
            ApplyEdit(people["owner"], busy.pk, exposure(9.0), "Exposure").execute()
            DeletePrint(people["owner"], Print.objects.get().pk).execute()
            StoredFile.objects.update(created="2020-01-01T00:00Z")
            DeleteProject(people["owner"], busy.pk).execute()
            assert collect_files() == 0

        elsewhere(work)
        real(target, snapshot)

    monkeypatch.setattr(backup, "_dump", dump_while_somebody_works)
    before_rows, before_files = rows(), stored()
    back_up(tmp_path / "all.zip")
    assert Project.objects.count() == 0
    assert collect_files() > 0 and stored() != before_files
    restore(tmp_path / "all.zip")
    assert rows()["Project"] == before_rows["Project"] and rows()["Edit"] == before_rows["Edit"]
    assert stored() == before_files


@pytest.mark.parametrize("damage", ["cut", "flipped", "not ours", "unfinished", "of tomorrow", "reaches out"])
def test_a_damaged_backup_changes_nothing(busy, tmp_path, damage):
    path = tmp_path / "all.zip"
    back_up(path)
    content = path.read_bytes()
    if damage == "cut":
        path.write_bytes(content[: len(content) // 2])
    elif damage == "flipped":
        place = content.index(b"PGDMP") + 3000
        path.write_bytes(content[:place] + bytes([content[place] ^ 255]) + content[place + 1 :])
    else:
        index = {
            "not ours": b'{"format": "other"}',
            "unfinished": None,
            "of tomorrow": b'{"format": "velvet-lantern-backup", "version": 2}',
        }
        with zipfile.ZipFile(path) as old, zipfile.ZipFile(tmp_path / "new.zip", "w") as new:
            for entry in old.namelist():
                content = index.get(damage, old.read(entry)) if entry == "backup.json" else old.read(entry)
                if content is not None:
                    new.writestr(entry, content)
            if damage == "reaches out":
                new.writestr("prints/../../elsewhere", b"x")
        path = tmp_path / "new.zip"
    before = rows(), stored()
    with pytest.raises(CommandError):
        call_command("restore", str(path), "--yes")
    assert (rows(), stored()) == before


def test_a_backup_that_cannot_be_written_leaves_nothing(busy, tmp_path):
    with pytest.raises(BackupError, match="cannot be written"):
        back_up(tmp_path / "no" / "all.zip")
    assert sorted(p.name for p in tmp_path.glob("*.zip*")) == [] and not list(tmp_path.glob(".*partial"))


def test_a_row_without_its_file_is_said(busy, tmp_path):
    stored_file = StoredFile.objects.first()
    Path(stored_file.file.path).unlink()
    with pytest.raises(BackupError, match="named in the database and is not there"):
        back_up(tmp_path / "all.zip")
    assert not list(tmp_path.glob("*.zip"))


def test_files_of_a_print_that_is_removed_meanwhile_go_later(people, busy):
    with files_stay():
        elsewhere(lambda: DeletePrint(people["owner"], Print.objects.get().pk).execute())
        assert [name for alias, name in stored() if alias == "prints"]
    collect_files()
    assert not [name for alias, name in stored() if alias == "prints"]


@pytest.fixture
async def watched():
    """The server looks at what happens in the database, as it does while it runs."""
    watching = asyncio.create_task(sessions.watch())
    yield
    watching.cancel()


async def test_an_open_window_shows_what_was_restored(people, project, tmp_path, watched):
    socket = await joined(people, project)
    try:
        first = await until(socket, is_type("document"))
        await sync_to_async(back_up)(tmp_path / "all.zip")
        edit = {"type": "edit", "patch": exposure(4.0), "label": "E", "request": "r1", "base": first["revision"]}
        await socket.send_json_to(edit)
        assert (await until(socket, is_type("edited")))["revision"] == first["revision"] + 1
        await sync_to_async(restore)(tmp_path / "all.zip")
        back = await until(socket, is_type("document"))
        assert back["revision"] == first["revision"] and back["scene"] == first["scene"]
        # Another edit with the same revision as the one that is gone: nothing of that one is remembered.
        await socket.send_json_to(edit | {"patch": exposure(-1.0), "request": "r2"})
        edited = await until(socket, is_type("edited"))
        assert edited["patch"] == exposure(-1.0)
    finally:
        await leave(socket)


async def test_windows_of_a_project_that_is_gone_are_told_so(people, project, watched):
    socket = await joined(people, project)
    try:
        await until(socket, is_type("document"))
        await sync_to_async(DeleteProject(people["owner"], project.pk).execute)()
        assert (await until(socket, lambda m: False))["code"] == 4404
    finally:
        await leave(socket)
