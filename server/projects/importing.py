"""From an uploaded asset to a project: the file is read in a process of its own, so that no file can harm the server.

In: a received upload. Out: an `AssetImport` that moves from running to done or failed. Called by the API.
"""

import json
import logging
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import close_old_connections, transaction

from lantern.scene.reading import read_scene
from server.projects import storage
from server.projects.actions import CreateProject
from server.projects.models import AssetImport

log = logging.getLogger(__name__)


def start_import(record: AssetImport, path: Path) -> None:
    """Read the file in the background; `path` is removed at the end."""
    threading.Thread(target=_import, args=(record.pk, path), name=f"import-{record.pk}", daemon=True).start()


def _import(number: int, path: Path) -> None:
    record = AssetImport.objects.get(pk=number)
    try:
        result = _read_apart(record, path)
        with transaction.atomic():
            reference = storage.keep(path, record.file_name)
            result["scene"]["asset"]["file"] = reference.model_dump()
            scene = read_scene(result["scene"])
            name = scene.asset.name if scene.asset else record.file_name
            project = CreateProject(record.owner, name, scene, tuple(result["problems"])).execute()
            record.state, record.stage, record.share = AssetImport.State.DONE, "Done", 1.0
            record.project = project
            record.save()
    except ImportFailed as failure:
        _fail(record, str(failure))
    except Exception:
        log.exception("import %s failed", number)
        _fail(record, f"{record.file_name}: cannot be imported because of an error in this program; it has been logged")
    finally:
        storage.discard(path)
        close_old_connections()


class ImportFailed(ValueError):
    """The file cannot be used; the message names it and the problem."""


def _fail(record: AssetImport, message: str) -> None:
    record.state, record.error = AssetImport.State.FAILED, message
    record.save(update_fields=("state", "error"))


def _read_apart(record: AssetImport, path: Path) -> dict[str, Any]:
    """Run `import_process` on the file and follow its progress lines."""
    process = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "server.projects.import_process",
            str(path),
            record.file_name,
            str(settings.ASSET_SIZE_LIMIT),
        ],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    killer = threading.Timer(settings.IMPORT_TIME_LIMIT, process.kill)
    killer.start()
    result: dict[str, Any] | None = None
    try:
        assert process.stdout is not None
        for line in process.stdout:
            message = json.loads(line)
            if "error" in message:
                raise ImportFailed(message["error"])
            if "scene" in message:
                result = message
            else:
                record.stage, record.share = message["stage"], message["share"]
                record.save(update_fields=("stage", "share"))
    finally:
        killer.cancel()
        process.kill()
        process.wait()
    if result is None:
        reason = "reading it took too much time or memory, or it is damaged in a way that stopped the reader"
        raise ImportFailed(f"{record.file_name}: {reason}")
    return result
