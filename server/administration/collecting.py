"""Removing files that nothing names any more.

In: all that names files: documents, steps of undo, prints, the library. Out: stored files removed. Called once a day by
the intake worker. What is younger than a day stays: it may be on its way into a document.
"""

import logging
from collections.abc import Iterator
from datetime import timedelta

from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone

from lantern.scene.editing import files_in
from server.library.models import EnvironmentItem, ProfileItem
from server.prints.models import Print
from server.projects.models import Edit, Project, StoredFile

log = logging.getLogger(__name__)
YOUNG = timedelta(days=1)


def collect_files() -> int:
    """Remove what is unused; returns how many files went."""
    old = StoredFile.objects.filter(created__lt=timezone.now() - YOUNG)
    candidates = dict(old.values_list("sha256", "pk"))
    for digest in _named() if candidates else ():
        candidates.pop(digest, None)
    return sum(_removed(pk) for pk in candidates.values())


def _named() -> Iterator[str]:
    for model in (EnvironmentItem, ProfileItem):
        yield from model.objects.values_list("file__sha256", flat=True)
    for values in (
        Project.objects.values_list("scene"),
        Edit.objects.values_list("patch", "inverse"),
        Print.objects.values_list("scene"),
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
