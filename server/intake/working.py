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
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.conf import settings
from django.core.files.storage import storages
from django.db import close_old_connections, transaction

from lantern.scene.editing import files_in
from lantern.scene.reading import read_scene
from server.errors import Missing, Refused
from server.intake.actions import discard, limit_of
from server.intake.models import Upload
from server.intake.reading import JOINED, Wanted
from server.library.actions import AddEnvironment, AddImage, AddProfile
from server.library.looks import AddLook
from server.library.picturing import ask_for_pictures
from server.library.swatches import AddSwatches
from server.packages.actions import UnpackProject
from server.packages.contents import Index
from server.projects import storage
from server.projects.actions import CreateProject
from server.projects.models import Project
from server.projects.reports import Report, keep_report
from server.runtime.patience import AWAY, patiently
from server.runtime.stores import local_path
from server.takes.actions import KeepTake, Still

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3
LOOK_SECONDS = 0.4
"""How often it is asked whether the upload was cancelled."""


class ReadingFailed(ValueError):
    """The file cannot be used; the message names it and the problem."""


class Canceled(Exception):
    """Somebody no longer wants this upload."""


@dataclass(frozen=True)
class _Job:
    """An upload, where its file lies on this machine, and a folder for what is unpacked of it."""

    upload: Upload
    path: Path
    folder: Path

    def wanted(self) -> Wanted:
        """What the reader is told."""
        upload, start, swaps = self.upload, self.upload.start, self.upload.swaps
        limit = limit_of(upload.kind, upload.file_name)
        return Wanted(
            upload.kind, str(self.path), upload.file_name, limit, str(self.folder),
            None if start is None else start.scene, None if start is None else start.bounds,
            None if swaps is None else _to_be_swapped(swaps), upload.joins,
        )  # fmt: skip


def work_on(number: int) -> None:
    """Read upload `number`. Returns without a word when it was cancelled or has ended already."""
    upload = patiently(Upload.objects.filter(pk=number, state=Upload.State.RUNNING).first)
    if upload is None:
        return
    upload.attempts += 1
    patiently(partial(upload.save, update_fields=("attempts",)))
    try:
        if upload.attempts > MOST_ATTEMPTS:
            raise ReadingFailed(f"{upload.file_name}: reading it was tried {MOST_ATTEMPTS} times and never ended")
        settings.READING_FOLDER.mkdir(parents=True, exist_ok=True)
        with TemporaryDirectory(dir=settings.READING_FOLDER) as folder:
            job = _Job(upload, local_path(storages["uploads"], upload.stored_name), Path(folder))
            found = _read_apart(job)
            patiently(lambda: _store(job, found))
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


def _store(job: _Job, found: dict[str, Any]) -> None:
    """Make what the file is, and say so, in one transaction. Raises Canceled when it is not wanted any more."""
    upload = job.upload
    with transaction.atomic():
        if not Upload.objects.select_for_update().filter(pk=upload.pk, state=Upload.State.RUNNING).exists():
            raise Canceled
        result = _MAKERS[Upload.Kind(upload.kind)](job, found)
        Upload.objects.filter(pk=upload.pk).update(state=Upload.State.DONE, stage="Done", share=1.0, result=result)


def _to_be_swapped(project: Project) -> dict[str, Any]:
    """A project's document, and where the file of its asset lies."""
    scene = project.document()
    if scene.asset is None:
        return {"scene": scene.plain(), "path": None, "name": "", "revision": project.revision}
    path = storage.paths_of([scene.asset.file])[scene.asset.file.sha256]
    return {"scene": scene.plain(), "path": path, "name": scene.asset.file.name, "revision": project.revision}


def _project(job: _Job, found: dict[str, Any]) -> int:
    upload = job.upload
    if "package" in found:
        files = {digest: job.folder / digest for digest in found["files"]}
        cover = None if found["cover"] is None else base64.b64decode(found["cover"])
        return UnpackProject(upload.owner, Index.model_validate(found["package"]), cover, files).execute().pk
    joined = found.get("joined")
    kept, name = (job.path, upload.file_name) if joined is None else (job.folder / JOINED, joined)
    reference = storage.keep(kept, name, upload.owner)
    report = Report(found["problems"], found["report"])
    if upload.swaps is not None:
        keep_report(upload.swaps, reference.sha256, report)
        Upload.objects.filter(pk=upload.pk).update(offer=found["offer"])
        return upload.swaps.pk
    found["scene"]["asset"]["file"] = reference.model_dump()
    scene = read_scene(found["scene"])
    name = scene.asset.name if scene.asset else upload.file_name
    return CreateProject(upload.owner, name, scene, report, found["bounds"]).execute().pk


def _environment(job: _Job, found: dict[str, Any]) -> int:
    facts = found | {"thumbnail": base64.b64decode(found["thumbnail"])}
    name = job.upload.file_name
    return AddEnvironment(job.upload.owner, job.path, name, _shown_name(name), facts).execute().pk


def _profile(job: _Job, found: dict[str, Any]) -> int:
    name = job.upload.file_name
    return AddProfile(job.upload.owner, job.path, name, _shown_name(name), found).execute().pk


def _image(job: _Job, found: dict[str, Any]) -> int:
    facts, name = found | {"thumbnail": base64.b64decode(found["thumbnail"])}, job.upload.file_name
    return AddImage(job.upload.owner, job.path, name, _shown_name(name), facts).execute().pk


def _material(job: _Job, found: dict[str, Any]) -> int:
    files = {digest: (job.folder / digest, name) for digest, name in found["files"].items()}
    added = AddSwatches(job.upload.owner, found["materials"], files, found["problems"]).execute()
    # A question that finds one like it queued already ends its transaction.
    transaction.on_commit(ask_for_pictures)
    return added[0].pk


def _look(job: _Job, found: dict[str, Any]) -> int:
    return AddLook(job.upload.owner, job.path, job.upload.file_name, found["look"]).execute().pk


def _take(job: _Job, found: dict[str, Any]) -> int:
    """A take of the project that it was opened in, of a document whose files are here. Raises ReadingFailed."""
    upload = job.upload
    assert upload.swaps is not None, "a picture is opened in a project"
    scene = read_scene(found["document"])
    still = Still(base64.b64decode(found["png"]), found["samples"], None)
    try:
        storage.paths_of(files_in(found["document"]), upload.owner)
        keeping = KeepTake(
            upload.owner, upload.swaps.pk, scene.plain(), upload.swaps.revision, still, f"picture-{upload.pk}",
            note=upload.file_name,
        )  # fmt: skip
        return keeping.execute().pk
    except (Refused, Missing) as error:
        raise ReadingFailed(f"{upload.file_name}: {error}") from error


_MAKERS: dict[Upload.Kind, Callable[[_Job, dict[str, Any]], int]] = {
    Upload.Kind.ASSET: _project,
    Upload.Kind.ENVIRONMENT: _environment,
    Upload.Kind.PROFILE: _profile,
    Upload.Kind.IMAGE: _image,
    Upload.Kind.MATERIAL: _material,
    Upload.Kind.LOOK: _look,
    Upload.Kind.PICTURE: _take,
}


def _shown_name(file_name: str) -> str:
    return Path(file_name).stem.replace("_", " ")


def _read_apart(job: _Job) -> dict[str, Any]:
    """Run `reading` on the file and follow its progress lines; end it when its time is up or it is cancelled."""
    upload = job.upload
    process = subprocess.Popen(
        [sys.executable, "-m", "server.intake.reading"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    assert process.stdin is not None
    with suppress(BrokenPipeError), process.stdin as said:  # one that dies at its start says so by ending
        json.dump(asdict(job.wanted()), said)
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
