"""Removing files that nothing names any more.

In: all that names files: documents, steps of undo, prints, the library. Out: stored files removed. Called once a day by
the intake worker. What is younger than a day stays: it may be on its way into a document.
"""

import logging
import shutil
import time
from collections.abc import Iterator
from contextlib import suppress
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.core.files.storage import storages
from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone

from lantern.scene.editing import files_in
from server.library.models import EnvironmentItem, ImageItem, ProfileItem, RigItem, SwatchItem
from server.prints.actions import remove_files
from server.prints.models import Print
from server.projects.models import Edit, Project, Start, StoredFile
from server.runtime.file_lock import files_may_go
from server.runtime.stores import forget_unused
from server.showings.models import Showing, SlidePicture
from server.takes.models import Take

log = logging.getLogger(__name__)
YOUNG = timedelta(days=1)


def collect_files() -> int:
    """Remove what is unused; returns how many files went. None go while a backup is being made."""
    with files_may_go() as may:
        return _collect() + forget_unused() + _collect_folders() if may else 0


def _collect() -> int:
    old = StoredFile.objects.filter(created__lt=timezone.now() - YOUNG)
    candidates = dict(old.values_list("sha256", "pk"))
    for digest in _named() if candidates else ():
        candidates.pop(digest, None)
    return sum(_removed(pk) for pk in candidates.values())


def _collect_folders() -> int:
    """Remove what workers that were killed have left of readings, and what is there of prints that are gone."""
    limit = time.time() - YOUNG.total_seconds()
    for folder in _folders(settings.READING_FOLDER):
        if folder.stat().st_mtime < limit:
            shutil.rmtree(folder, ignore_errors=True)
    names = {folder.name for folder in _folders(settings.FILMS_FOLDER)}
    with suppress(FileNotFoundError):
        names.update(storages["prints"].listdir("")[0])
    numbers = {int(name) for name in names if name.isdigit()}
    gone = numbers - set(Print.objects.filter(pk__in=numbers).values_list("pk", flat=True))
    for number in gone:
        remove_files(Print(pk=number))
    return len(gone)


def _folders(folder: Path) -> list[Path]:
    return [each for each in folder.iterdir() if each.is_dir()] if folder.is_dir() else []


def _named() -> Iterator[str]:
    for model in (EnvironmentItem, ProfileItem, ImageItem):
        yield from model.objects.values_list("file__sha256", flat=True)
    for model in (Take, SlidePicture):
        yield from model.objects.values_list("picture__sha256", flat=True)
    yield from Take.objects.exclude(film=None).values_list("film__sha256", flat=True)
    for values in (
        Project.objects.values_list("scene"),
        Start.objects.values_list("scene"),
        Edit.objects.values_list("patch", "inverse"),
        Print.objects.values_list("scene"),
        Take.objects.values_list("scene"),
        Showing.objects.values_list("scene"),
        SwatchItem.objects.values_list("content"),
        RigItem.objects.values_list("content"),
    ):
        for row in values.iterator(chunk_size=100):
            yield from (file.sha256 for file in files_in(list(row)))


def _removed(number: int) -> bool:
    """Remove the row, and then the file: a file without a row is nothing, a row without a file is a fault."""
    try:
        with transaction.atomic():
            stored = StoredFile.objects.select_for_update().get(pk=number)
            name, storage = stored.file.name, stored.file.storage
            stored.delete()
    except (ProtectedError, StoredFile.DoesNotExist):
        return False  # somebody has taken it into use meanwhile
    storage.delete(name)
    log.info("file %s is unused and removed", name)
    return True
