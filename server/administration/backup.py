"""The whole of a server in one file, made while it runs.

In: the database and the storages. Out: a zip with `backup.json`, `database.dump` (PostgreSQL's custom format) and the
files that rows of that very database name. The rows are read in the snapshot that the dump is made of (PostgreSQL,
pg_export_snapshot), and no file is removed meanwhile. Secrets are not in it: whoever has it cannot sign a session.
"""

import json
import subprocess
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.core.files.storage import storages
from django.db import connection, transaction
from django.utils import timezone

from server.intake.models import Upload
from server.prints.models import Print
from server.projects.models import Project, StoredFile
from server.runtime.durable import put_in_place
from server.runtime.file_lock import files_stay
from server.runtime.postgres import client_command

FORMAT, VERSION = "velvet-lantern-backup", 1
INDEX, DUMP = "backup.json", "database.dump"
PIECE = 1 << 20


class BackupError(RuntimeError):
    """A backup cannot be made or restored; the message says why in one line."""


@dataclass(frozen=True)
class Kept:
    """A file of a storage."""

    storage: str
    name: str

    @property
    def entry(self) -> str:
        """Its name in the zip."""
        return f"{self.storage}/{self.name}"


def back_up(path: Path, say: Callable[[str], None] = lambda _: None) -> dict[str, Any]:
    """Write a backup, whole or not at all; returns what its index says. Raises BackupError."""
    partial = path.with_name(f".{path.name}.partial")
    try:
        with files_stay(), zipfile.ZipFile(partial, "w", zipfile.ZIP_STORED, allowZip64=True) as target:
            index = _written(target, say)
        put_in_place(partial, path)
    except OSError as error:
        raise BackupError(f"{path} cannot be written: {error.strerror or error}") from error
    finally:
        partial.unlink(missing_ok=True)
    return index


def _written(target: zipfile.ZipFile, say: Callable[[str], None]) -> dict[str, Any]:
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
            cursor.execute("SELECT pg_export_snapshot()")
            (snapshot,) = cursor.fetchone()
        say("Dumping the database")
        _dump(target, snapshot)
        named = list(_named())
        counts = {"projects": Project.objects.count(), "prints": Print.objects.count(), "files": len(named)}
    for number, kept in enumerate(named, 1):
        if number % 100 == 1:
            say(f"Copying files: {number} of {len(named)}")
        _copy(kept, target)
    index = {"format": FORMAT, "version": VERSION, "made": timezone.now().isoformat(), **counts}
    # At the end: a backup that has it is whole.
    target.writestr(INDEX, json.dumps(index))
    return index


def _copy(kept: Kept, target: zipfile.ZipFile) -> None:
    try:
        source = storages[kept.storage].open(kept.name)
    except FileNotFoundError as error:
        raise BackupError(f"the file {kept.entry} is named in the database and is not there") from error
    with source, target.open(kept.entry, "w", force_zip64=True) as out:
        for piece in source.chunks(PIECE):
            out.write(piece)


def _dump(target: zipfile.ZipFile, snapshot: str) -> None:
    command, environment = client_command("pg_dump")
    options = ["--format=custom", "--no-owner", "--no-privileges", f"--snapshot={snapshot}"]
    process = subprocess.Popen(
        [*command, *options, connection.settings_dict["NAME"]],
        env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
    )  # fmt: skip
    assert process.stdout is not None and process.stderr is not None
    with target.open(DUMP, "w", force_zip64=True) as out:
        while piece := process.stdout.read(PIECE):
            out.write(piece)
    complaint = process.stderr.read().decode(errors="replace").strip()
    if process.wait():
        raise BackupError(f"the database cannot be dumped: {complaint.splitlines()[-1] if complaint else 'no reason'}")


def _named() -> Iterator[Kept]:
    """The files that rows name, as far as they are there: a print may have lost its own before."""
    for name in StoredFile.objects.order_by("pk").values_list("file", flat=True):
        yield Kept("default", name)
    for item in Print.objects.filter(state=Print.State.DONE).defer("scene"):
        yield from (Kept("prints", item.file_name(kind)) for kind in Print.FILES if item.has_file(kind))
    for upload in Upload.objects.filter(state=Upload.State.RUNNING):
        if storages["uploads"].exists(upload.stored_name):
            yield Kept("uploads", upload.stored_name)
