"""Files in Django's storages as files of this machine: whatever renders or reads one opens a path.

In: a storage and a name in it. Out: a path. A storage on this machine has one; from any other a file is fetched, once,
into a folder of this machine, where it stays until nobody has asked for it for a while. Names stand for one content.
"""

import os
import time
from contextlib import suppress
from pathlib import Path
from urllib.parse import quote

from django.conf import settings
from django.core.files import File
from django.core.files.storage import Storage

from server.runtime.durable import written
from server.runtime.file_storage import DurableStorage

UNUSED_SECONDS = 30 * 86_400
"""How long a fetched file is kept that nobody asks for."""


def local_path(storage: Storage, name: str) -> Path:
    """Where a file lies on this machine, fetched if need be. Raises FileNotFoundError, or what the storage raises."""
    try:
        return Path(storage.path(name))
    except NotImplementedError:
        path = _fetched(storage, name)
    if not path.is_file():
        path.parent.mkdir(parents=True, exist_ok=True)
        with storage.open(name) as source:
            written(path, source.chunks())
    os.utime(path)
    return path


def put(storage: Storage, path: Path, name: str) -> None:
    """Have a file of this machine in a storage under a name, durable; it is gone from where it was."""
    if isinstance(storage, DurableStorage):
        storage.take(path, name)
        return
    with path.open("rb") as content:
        storage.save(name, File(content))
    path.unlink()


def remove(storage: Storage, name: str) -> None:
    """Delete a file, here and in the storage. One that is not there is none to delete."""
    storage.delete(name)
    with suppress(NotImplementedError, FileNotFoundError):
        storage.path(name)
        return
    _fetched(storage, name).unlink(missing_ok=True)


def forget_unused() -> int:
    """Delete what was fetched and not asked for since; returns how many files went."""
    gone = 0
    for path in settings.FETCHED_FOLDER.rglob("*"):
        if path.is_file() and time.time() - path.stat().st_mtime > UNUSED_SECONDS:
            path.unlink(missing_ok=True)
            gone += 1
    return gone


def _fetched(storage: Storage, name: str) -> Path:
    place = quote(str(getattr(storage, "location", "")) or "files", safe="")
    return Path(settings.FETCHED_FOLDER) / place / quote(name, safe="/")
