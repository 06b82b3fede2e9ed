"""Changes of the print queue."""

import shutil
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.core.files.storage import storages
from django.db import transaction
from django.utils import timezone

from lantern.scene.document import Scene
from lantern.scene.naming import named, names_on
from lantern.scene.orders import OrderError, digest_of
from server.errors import Missing, Refused
from server.prints import queue, tasks
from server.prints.forms import frames_bytes, why_not_clear, with_frames
from server.prints.memory import film_problem
from server.prints.models import Print
from server.prints.pieces import discard_pieces
from server.projects.models import Project
from server.projects.policy import Person, held_project, project_for, visible_projects
from server.runtime.file_lock import files_may_go
from server.runtime.stores import remove

MOST_FRAMES = 20_000


def print_for(person: Person, number: int) -> Print:
    """One print of a person's projects. Raises Missing."""
    found = Print.objects.filter(pk=number, project__in=visible_projects(person)).first()
    if found is None:
        raise Missing(f"There is no print {number} for you.")
    return found


def next_name(project: Project, template: str | None = None) -> str:
    """What the files of the next print of a project are called, by its own template unless another is given.

    Raises Refused for a template that cannot be.
    """
    scene = project.document()
    template = scene.print.file_name if template is None else template
    number = project.prints.count()
    size = scene.print.width, scene.print.height
    try:
        return named(template, number, project.name, names_on(scene), *size)
    except OrderError as error:
        raise Refused(str(error)) from error


def remove_files(item: Print) -> None:
    """Remove what there is of a print in storage and on this machine."""
    for kind in Print.FILES:
        remove(storages["prints"], item.file_name(kind))
    shutil.rmtree(item.folder, ignore_errors=True)


def discard_held(item: Print) -> None:
    """Remove the samples of a print that was held and is not wanted any more: no worker is at it who would."""
    if item.state == Print.State.HELD:
        discard_pieces(item)
        shutil.rmtree(item.folder, ignore_errors=True)


def _removed(item: Print) -> None:
    """Remove the files of a print that is gone; if a backup is being made, the daily collection does."""
    with files_may_go() as may:
        if may:
            remove_files(item)


def _check_film(scene: Scene, form: str) -> None:
    """Whether a film of a document can be made in a form, and there is room for its frames."""
    motion, wanted = scene.motion, scene.print
    if motion.frames > MOST_FRAMES:
        raise Refused(f"This film has {motion.frames:,} frames, and {MOST_FRAMES:,} are the most: make it shorter.")
    if wanted.transparent and (problem := why_not_clear(form)):
        raise Refused(problem)
    Path(settings.FILMS_FOLDER).mkdir(parents=True, exist_ok=True)
    needed = frames_bytes(scene, form)
    free = shutil.disk_usage(settings.FILMS_FOLDER).free
    if needed > free:
        raise Refused(
            f"The {motion.frames:,} frames take about {needed / 2**30:.1f} GiB on disk, and {free / 2**30:.1f} GiB are "
            "free: make room, or print it smaller or shorter."
        )


@dataclass(frozen=True)
class QueuePrint:
    """Queue a final frame of the project as it is now, with the document's print settings; or a film of its time line.

    Raises Missing and Refused.
    """

    person: Person
    project_id: int
    form: str = Print.STILL
    quality: int = 80

    def execute(self) -> Print:
        project = project_for(self.person, self.project_id)
        scene = project.document()
        if not scene.parts:
            raise Refused("There is nothing to print: the project has no asset.")
        if self.form != Print.STILL:
            _check_film(scene, self.form)
        if problem := film_problem(scene if self.form == Print.STILL else with_frames(scene, self.form)):
            raise Refused(problem)
        name = next_name(project)
        with transaction.atomic():
            held_project(self.person, project.pk, "scene")
            created = Print.objects.create(
                project=project,
                author=self.person,
                scene=project.scene,
                digest=digest_of(scene) if self.form == Print.STILL else "",
                name=name,
                form=self.form,
                quality=self.quality,
            )
            tasks.queue_print(created.pk, created.worked_by)
        return created


@dataclass(frozen=True)
class RetryPrint:
    """Queue a print again that has failed; what was kept of its film goes on."""

    person: Person
    print_id: int

    def execute(self) -> Print:
        found = print_for(self.person, self.print_id)
        with transaction.atomic():
            failed = Print.objects.filter(pk=found.pk, state=Print.State.FAILED)
            if not failed.update(state=Print.State.QUEUED, attempts=0, error="", ended=None, queued=timezone.now()):
                raise Refused("Only a print that has failed can be tried again.")
            tasks.queue_print(found.pk, found.worked_by, found.priority)
        found.refresh_from_db()
        return found


@dataclass(frozen=True)
class HoldPrint:
    """Hold a print that waits or is being made: its samples are kept, until it goes on or is cancelled."""

    person: Person
    print_id: int

    def execute(self) -> Print:
        found = print_for(self.person, self.print_id)
        open_ones = Print.objects.filter(pk=found.pk, state__in=(Print.State.QUEUED, Print.State.RUNNING))
        if not open_ones.update(state=Print.State.HELD, seconds_left=None):
            raise Refused("Only a print that waits or is being made can be held.")
        found.refresh_from_db()
        return found


@dataclass(frozen=True)
class GoOnPrint:
    """Queue a held print again; it goes on with the samples that it had."""

    person: Person
    print_id: int

    def execute(self) -> Print:
        found = print_for(self.person, self.print_id)
        with transaction.atomic():
            held = Print.objects.filter(pk=found.pk, state=Print.State.HELD)
            if not held.update(state=Print.State.QUEUED, attempts=0, queued=timezone.now()):
                raise Refused("Only a print that is held can go on.")
            tasks.queue_print(found.pk, found.worked_by, found.priority)
        found.refresh_from_db()
        return found


@dataclass(frozen=True)
class MovePrint:
    """Have a print that waits take the place of another of its project that waits; those between move up, or back.

    Others keep their places, so that nobody comes before what another project waits for. Raises Missing and Refused.
    """

    person: Person
    print_id: int
    other_id: int

    def execute(self) -> Print:
        found, other = print_for(self.person, self.print_id), print_for(self.person, self.other_id)
        with transaction.atomic():
            waiting = queue.lock_waiting()
            own = [item for item in waiting if item.project_id == found.project_id]
            keys = [item.pk for item in own]
            if found.pk not in keys or other.pk not in keys:
                raise Refused("Only prints of one project that wait can change places.")
            place = keys.index(other.pk)
            own.insert(place, own.pop(keys.index(found.pk)))
            queue.put_in_order(waiting, own)
        found.refresh_from_db()
        return found


@dataclass(frozen=True)
class PrintNext:
    """Have a print that waits made before all others of its project that wait. Raises Missing and Refused."""

    person: Person
    print_id: int

    def execute(self) -> Print:
        found = print_for(self.person, self.print_id)
        first = found.project.prints.filter(state=Print.State.QUEUED).order_by(*queue.IN_ORDER).first()
        if first is None or found.state != Print.State.QUEUED:
            raise Refused("Only a print that waits can be made next.")
        return MovePrint(self.person, self.print_id, first.pk).execute()


@dataclass(frozen=True)
class DeletePrint:
    """Remove a print that has ended, with its files."""

    person: Person
    print_id: int

    def execute(self) -> None:
        found = print_for(self.person, self.print_id)
        with transaction.atomic():
            ended = Print.objects.select_for_update().filter(pk=found.pk, state__in=Print.ENDED).first()
            if ended is None:
                raise Refused("This print is still being made: cancel it first.")
            discard_pieces(ended)
            ended.delete()
        transaction.on_commit(lambda: _removed(found))


@dataclass(frozen=True)
class CancelPrint:
    """Stop a print; a worker that is at it notices within a second."""

    person: Person
    print_id: int

    def execute(self) -> Print:
        found = print_for(self.person, self.print_id)
        changed = Print.objects.filter(pk=found.pk).exclude(state__in=Print.ENDED)
        if not changed.update(state=Print.State.CANCELED, ended=timezone.now(), seconds_left=None):
            raise Refused("This print has already ended.")
        discard_held(found)
        found.refresh_from_db()
        return found
