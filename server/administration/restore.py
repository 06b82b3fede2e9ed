"""A server brought back to what a backup holds, while it runs.

In: a file that `backup` has made. Out: the database and the files of that moment; what was there since is gone. Files
come first, each under its own name, so that no row ever names one that is not there; then the database, in one
transaction. Open windows notice within two seconds and show what there is now; whoever was signed in signs in again if
the backup does not know them.
"""

import json
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any

from django.conf import settings
from django.core.exceptions import SuspiciousOperation
from django.core.files.storage import storages
from django.core.management import call_command
from django.db import connection

from lantern.assets.hashing import sha256_of
from server.administration.backup import DUMP, FORMAT, INDEX, PIECE, VERSION, BackupError
from server.runtime.file_lock import files_stay
from server.runtime.postgres import client_command
from server.runtime.stores import put

STORAGES = ("default", "prints", "uploads")


def restore(path: Path, say: Callable[[str], None] = lambda _: None) -> dict[str, Any]:
    """Bring everything back; returns what the backup's index says.

    Raises BackupError; the database is as it was then, and files at most more than before.
    """
    try:
        with zipfile.ZipFile(path) as source, NamedTemporaryFile(dir=settings.DATA, suffix=".dump") as dump:
            index = read_index(source)
            say("Checking the backup")
            if damaged := source.testzip():
                raise BackupError(f"{path} is damaged: {damaged} does not have the sum that was noted")
            _copy(source, DUMP, Path(dump.name))
            with files_stay():
                _bring_files(source, say)
                say("Restoring the database")
                _load(Path(dump.name))
    except (zipfile.BadZipFile, OSError, SuspiciousOperation) as error:
        raise BackupError(f"{path} cannot be read: {error}") from error
    say("Bringing the tables up to date")
    connection.close()
    call_command("migrate", "--no-input", verbosity=0)
    return index


def read_index(source: zipfile.ZipFile) -> dict[str, Any]:
    """What a backup says of itself. Raises BackupError when it is none, not whole, or of a later version."""
    try:
        index = json.loads(source.read(INDEX))
    except (KeyError, ValueError) as error:
        raise BackupError("this is no backup, or one that was not finished") from error
    if not isinstance(index, dict) or index.get("format") != FORMAT:
        raise BackupError("this is no backup of this program")
    if not isinstance(index.get("version"), int) or index["version"] > VERSION:
        raise BackupError("this backup was made by a later version: bring the program up to date first")
    return index


def _bring_files(source: zipfile.ZipFile, say: Callable[[str], None]) -> None:
    files = [entry for entry in source.namelist() if entry.partition("/")[0] in STORAGES]
    for number, entry in enumerate(files, 1):
        if number % 100 == 1:
            say(f"Bringing files: {number} of {len(files)}")
        alias, _, name = entry.partition("/")
        with NamedTemporaryFile(dir=settings.DATA, delete=False) as target:
            part = Path(target.name)
        try:
            _copy(source, entry, part)
            if alias == "default" and sha256_of(part) != name.rpartition("/")[2]:
                raise BackupError(f"{entry} in the backup is another file than its name says")
            put(storages[alias], part, name)
        finally:
            part.unlink(missing_ok=True)


def _copy(source: zipfile.ZipFile, entry: str, path: Path) -> None:
    with source.open(entry) as content, path.open("wb") as target:
        while piece := content.read(PIECE):
            target.write(piece)


def _load(dump: Path) -> None:
    command, environment = client_command("pg_restore")
    options = ["--clean", "--if-exists", "--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error"]
    name = connection.settings_dict["NAME"]
    done = subprocess.run(
        [*command, *options, f"--dbname={name}", str(dump)],
        env=environment, capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode:
        reason = done.stderr.strip().splitlines() or ["no reason given"]
        raise BackupError(f"the database stays as it was: {reason[0]}")
