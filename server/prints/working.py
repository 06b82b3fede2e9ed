"""Making a print: one frame (`still`), or frame after frame (`sequence`).

In: a `Print`. Out: its files, or its error. Called by the worker's task.
"""

import logging
import os
from contextlib import suppress
from pathlib import Path

from django.conf import settings as of_machine
from django.utils import timezone

from lantern.engine.engine import Engine
from lantern.engine.still_files import NAMES
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.prints import pieces, tasks
from server.prints.filling import Canceled, Watch
from server.prints.memory import film_bytes_of
from server.prints.models import Print
from server.prints.sequence import discard_frames, make_film
from server.prints.still import FILM_FILE, Still
from server.projects import storage
from server.runtime.patience import patiently
from server.workers.here import KINDS, busy, here, registered

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3


def work_on(number: int, priority: int | None = None) -> None:
    """Make print `number` whole, as the worker that this is. See `_work_on`.

    A job of another `priority` than a print that waits has is left from before its place was changed.
    """
    left_behind = Print.objects.filter(pk=number, state=Print.State.QUEUED).exclude(priority=priority)
    if priority is not None and patiently(left_behind.exists):
        return
    if here() is not None:
        with busy(number):
            _work_on(number)
    else:
        with registered(os.uname().nodename, of_machine.THREADS, of_machine.FILM_LIMIT, list(KINDS)), busy(number):
            _work_on(number)


def _work_on(number: int) -> None:
    """Make print `number` whole. Returns without a word when it was cancelled or has ended already.

    A print that brings its worker down is tried MOST_ATTEMPTS times in all. The film of one that failed is kept, so
    that it can be tried again where it stands; so is that of one that is held.
    """
    claimed = Print.objects.filter(pk=number, state__in=(Print.State.QUEUED, Print.State.RUNNING))
    wanted = patiently(claimed.first)
    if wanted is None:
        return
    if film_bytes_of(read_scene(wanted.scene)) > _own_memory():
        log.info("print %s is too large for this worker and is left to others", number)
        patiently(lambda: tasks.queue_print(number, wanted.worked_by, wanted.priority, later=True))
        return
    wanted.attempts += 1
    if not patiently(lambda: claimed.update(state=Print.State.RUNNING, attempts=wanted.attempts)):
        return
    try:
        if wanted.attempts > MOST_ATTEMPTS:
            raise RuntimeError(f"this print was tried {MOST_ATTEMPTS} times, and each time the worker died of it")
        wanted.folder.mkdir(parents=True, exist_ok=True)
        _make(wanted)
    except Canceled:
        if patiently(Print.objects.filter(pk=number, state__in=(Print.State.HELD, Print.State.QUEUED)).exists):
            log.info("print %s held", number)
            return
        log.info("print %s cancelled", number)
        discard_film(wanted)
        return
    except Exception as error:
        log.exception("print %s failed", number)
        message = str(error) or type(error).__name__
        if isinstance(error, OSError):
            message = f"the picture cannot be written ({error.strerror or error}): make room and try again"
        failed = {"state": Print.State.FAILED, "error": message, "seconds_left": None}
        patiently(lambda: Print.objects.filter(pk=number).update(**failed, ended=timezone.now()))
        patiently(lambda: tasks.tell_of_print.defer(print_id=number))
        return
    discard_film(wanted)
    patiently(lambda: tasks.tell_of_print.defer(print_id=number))


def _own_memory() -> int:
    """Bytes that a film may take here."""
    worker = here()
    return worker.memory if worker is not None else int(of_machine.FILM_LIMIT)


def discard_film(item: Print) -> None:
    """Remove what there is of a print besides its files, which may be in the same folder."""
    pieces.discard_pieces(item)
    for name in (FILM_FILE, *NAMES.values()):
        (item.folder / name).unlink(missing_ok=True)
    discard_frames(item)
    with suppress(OSError):
        item.folder.rmdir()


def _make(wanted: Print) -> None:
    scene = read_scene(wanted.scene)
    paths = patiently(lambda: storage.paths_for(scene))

    def resolve(reference: FileRef) -> Path:
        return Path(paths[reference.sha256])

    engine = Engine(of_machine.THREADS, final=True)
    try:
        with Watch(wanted.pk, engine) as watch:
            engine.open(scene, resolve)
            watch.check()
            if wanted.is_film:
                make_film(engine, scene, resolve, wanted, watch)
            else:
                Still(engine, scene, wanted, watch).make()
    finally:
        engine.close()
    ended = {"state": Print.State.DONE, "samples_done": wanted.samples, "seconds_left": None}
    running = Print.objects.filter(pk=wanted.pk, state=Print.State.RUNNING)
    patiently(lambda: running.update(**ended, ended=timezone.now()))
