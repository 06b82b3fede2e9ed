"""Reading an upload and making of it what it is to become.

In: the number of an `Upload`. Out: a project or an item of the library, or the upload's error. Called by the worker's
task. The file is read in a process of its own (`reading`); what it becomes is stored in one transaction.
"""

import base64
import json
import logging
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import close_old_connections, transaction

from lantern.scene.reading import read_scene
from server.intake.actions import discard, limit_of
from server.intake.models import Upload
from server.library.actions import AddEnvironment, AddProfile
from server.projects import storage
from server.projects.actions import CreateProject
from server.runtime.patience import AWAY, patiently

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3
LOOK_SECONDS = 0.4
"""How often it is asked whether the upload was cancelled."""


class ReadingFailed(ValueError):
    """The file cannot be used; the message names it and the problem."""


class Canceled(Exception):
    """Somebody no longer wants this upload."""


def work_on(number: int) -> None:
    """Read upload `number`. Returns without a word when it was cancelled or has ended already."""
    upload = Upload.objects.filter(pk=number, state=Upload.State.RUNNING).first()
    if upload is None:
        return
    upload.attempts += 1
    upload.save(update_fields=("attempts",))
    try:
        if upload.attempts > MOST_ATTEMPTS:
            raise ReadingFailed(f"{upload.file_name}: reading it was tried {MOST_ATTEMPTS} times and never ended")
        found = _read_apart(upload)
        patiently(lambda: _store(upload, found))
    except Canceled:
        log.info("upload %s cancelled", number)
    except ReadingFailed as failure:
        _fail(upload, str(failure))
    except OSError as error:
        log.exception("upload %s cannot be stored", number)
        _fail(upload, f"{upload.file_name}: cannot be stored ({error.strerror or error}); make room and try again")
    except Exception:
        log.exception("upload %s failed", number)
        _fail(upload, f"{upload.file_name}: cannot be read because of an error in this program; it has been logged")
    discard(upload)


def _fail(upload: Upload, message: str) -> None:
    running = Upload.objects.filter(pk=upload.pk, state=Upload.State.RUNNING)
    patiently(lambda: running.update(state=Upload.State.FAILED, stage="Failed", error=message))


def _store(upload: Upload, found: dict[str, Any]) -> None:
    """Make what the file is, and say so, in one transaction. Raises Canceled when it is not wanted any more."""
    with transaction.atomic():
        if not Upload.objects.select_for_update().filter(pk=upload.pk, state=Upload.State.RUNNING).exists():
            raise Canceled
        result = _MAKERS[Upload.Kind(upload.kind)](upload, found)
        Upload.objects.filter(pk=upload.pk).update(state=Upload.State.DONE, stage="Done", share=1.0, result=result)


def _project(upload: Upload, found: dict[str, Any]) -> int:
    reference = storage.keep(upload.path, upload.file_name, upload.owner)
    found["scene"]["asset"]["file"] = reference.model_dump()
    scene = read_scene(found["scene"])
    name = scene.asset.name if scene.asset else upload.file_name
    return CreateProject(upload.owner, name, scene, tuple(found["problems"])).execute().pk


def _environment(upload: Upload, found: dict[str, Any]) -> int:
    facts = found | {"thumbnail": base64.b64decode(found["thumbnail"])}
    return AddEnvironment(upload.owner, upload.path, upload.file_name, _shown_name(upload), facts).execute().pk


def _profile(upload: Upload, found: dict[str, Any]) -> int:
    return AddProfile(upload.owner, upload.path, upload.file_name, _shown_name(upload), found).execute().pk


_MAKERS: dict[Upload.Kind, Callable[[Upload, dict[str, Any]], int]] = {
    Upload.Kind.ASSET: _project,
    Upload.Kind.ENVIRONMENT: _environment,
    Upload.Kind.PROFILE: _profile,
}


def _shown_name(upload: Upload) -> str:
    return Path(upload.file_name).stem.replace("_", " ")


def _read_apart(upload: Upload) -> dict[str, Any]:
    """Run `reading` on the file and follow its progress lines; end it when its time is up or it is cancelled."""
    limit = str(limit_of(upload.kind))
    process = subprocess.Popen(
        [sys.executable, "-m", "server.intake.reading", upload.kind, str(upload.path), upload.file_name, limit],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    watch = threading.Thread(target=_watch, args=(process, upload.pk), daemon=True)
    watch.start()
    found: dict[str, Any] | None = None
    try:
        assert process.stdout is not None
        for line in process.stdout:
            message = json.loads(line)
            if "error" in message:
                raise ReadingFailed(message["error"])
            if "found" in message:
                found = message["found"]
            else:
                running = Upload.objects.filter(pk=upload.pk, state=Upload.State.RUNNING)
                with suppress(*AWAY):  # the next report comes soon
                    running.update(stage=message["stage"][:80], share=message["share"])
    finally:
        process.kill()
        process.wait()
        watch.join()
    if not patiently(Upload.objects.filter(pk=upload.pk, state=Upload.State.RUNNING).exists):
        raise Canceled
    if found is None:
        reason = "reading it took too much time or memory, or it is damaged in a way that stopped the reader"
        raise ReadingFailed(f"{upload.file_name}: {reason}")
    return found


def _watch(process: subprocess.Popen[str], number: int) -> None:
    """Kill the reader when the upload is cancelled, or when it takes too long."""
    end = time.monotonic() + settings.READING_TIME_LIMIT
    try:
        while process.poll() is None:
            wanted = patiently(Upload.objects.filter(pk=number, state=Upload.State.RUNNING).exists)
            if not wanted or time.monotonic() > end:
                process.kill()
                return
            time.sleep(LOOK_SECONDS)
    finally:
        close_old_connections()
