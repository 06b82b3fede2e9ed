"""Keeping a take: the host's picture and the document of that moment become one row. Finding its film again.

In: what a window wants kept, the document as it was when that was asked, the host's answer. Out: a message to the
window. Called by `session`.
"""

import base64
import logging
import shutil
from pathlib import Path
from tempfile import mkdtemp

from django.conf import settings

from lantern.scene.model import FileRef
from server.errors import Missing, Refused
from server.live.database import in_database
from server.live.seats import View
from server.live.snapshot import Snapshot
from server.projects import storage
from server.projects.policy import Person
from server.protocol.browser import RefusedMessage
from server.protocol.host import Paths
from server.protocol.takes import Reopen, StillFound, Take, TakeKept
from server.takes.actions import KeepTake, Still, film_path

log = logging.getLogger(__name__)
NO_PICTURE = "There is no picture to keep yet: wait for the first one."


def new_film_file() -> Path:
    """Where a host can write a film, in a folder of its own; what is left there is collected with that of readings."""
    settings.READING_FOLDER.mkdir(parents=True, exist_ok=True)
    return Path(mkdtemp(dir=settings.READING_FOLDER)) / "film.npz"


async def kept_take(
    view: View, wanted: Take, person: Person, now: Snapshot, found: StillFound, film: Path | None = None
) -> None:
    """Store it, and say so; a window whose camera is its own keeps that as the document's.

    `film` is where the host was to write its film; the folder around it goes.
    """
    try:
        await _kept(view, wanted, person, now, found, film)
    finally:
        if film is not None:
            shutil.rmtree(film.parent, ignore_errors=True)


async def _kept(view: View, wanted: Take, person: Person, now: Snapshot, found: StillFound, film: Path | None) -> None:
    if found.png is None:
        view.post(RefusedMessage(message=NO_PICTURE, request=wanted.request))
        return
    written = film if film is not None and film.is_file() else None
    still = Still(base64.b64decode(found.png), found.samples, found.noise, written)
    scene = found.scene or now.scene
    if found.camera:
        scene = {**scene, "camera": found.camera}
    if found.look:
        scene = {**scene, "look": found.look}
    keeping = KeepTake(person, now.project_id, scene, now.revision, still, wanted.request, wanted.note, wanted.reason)
    try:
        take = await in_database(now.project_id, keeping.execute)
    except (Refused, Missing) as error:
        view.post(RefusedMessage(message=str(error), request=wanted.request))
        return
    log.info("take %s of project %s kept by %s", take.pk, now.project_id, person)
    view.post(TakeKept(asked=wanted.request, take=take.pk, problem=found.problem))


async def film_of_take(project: int, view: View, wanted: Reopen, person: Person) -> str | None:
    """Path of the film of a take; None where there is none for a person, which the view is told."""
    try:
        return await in_database(project, lambda: film_path(person, project, wanted.take))
    except (Refused, Missing) as error:
        view.post(RefusedMessage(message=str(error), request=wanted.request))
        return None


async def paths_of_view(project: int, view: View, files: list[FileRef], person: Person) -> Paths | None:
    """Where files lie that a person has; None where one is not there for them, which the view is told."""
    try:
        return await in_database(project, lambda: storage.paths_of(files, person))
    except Refused as error:
        view.post(RefusedMessage(message=str(error)))
        return None
