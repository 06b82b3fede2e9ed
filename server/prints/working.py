"""Making a print: its film filled, its files written; of a film for the screen, frame after frame (`sequence`).

In: a `Print`. Out: its files, or its error. Called by the worker's task.
"""

import logging
import time
from contextlib import suppress
from pathlib import Path

from django.core.files.storage import storages
from django.utils import timezone

from lantern.engine.engine import Engine
from lantern.engine.still_files import NAMES, write_files
from lantern.film.film import Film
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.prints import filling
from server.prints.filling import Canceled, Progress, Watch
from server.prints.models import Print
from server.prints.sequence import discard_frames, make_film
from server.projects import storage
from server.runtime.patience import patiently
from server.runtime.stores import put

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3
FILM_FILE = "film.npz"


def work_on(number: int) -> None:
    """Make print `number` whole. Returns without a word when it was cancelled or has ended already.

    A print that brings its worker down is tried MOST_ATTEMPTS times in all. The film of one that failed is kept, so
    that it can be tried again where it stands; so is that of one that is held.
    """
    claimed = Print.objects.filter(pk=number, state__in=(Print.State.QUEUED, Print.State.RUNNING))
    wanted = patiently(claimed.first)
    if wanted is None:
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
    except Exception as error:
        log.exception("print %s failed", number)
        message = str(error) or type(error).__name__
        if isinstance(error, OSError):
            message = f"the picture cannot be written ({error.strerror or error}): make room and try again"
        failed = {"state": Print.State.FAILED, "error": message, "seconds_left": None}
        patiently(lambda: Print.objects.filter(pk=number).update(**failed, ended=timezone.now()))
        return
    discard_film(wanted)


def discard_film(item: Print) -> None:
    """Remove what lies on this machine of a print that needs it no more; its files may be in the same folder."""
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

    engine = Engine(final=True)
    try:
        with Watch(wanted.pk, engine) as watch:
            engine.open(scene, resolve)
            watch.check()
            if wanted.is_film:
                make_film(engine, scene, resolve, wanted, watch)
            else:
                _make_still(engine, scene, wanted, watch)
    finally:
        engine.close()
    ended = {"state": Print.State.DONE, "samples_done": wanted.samples, "seconds_left": None}
    running = Print.objects.filter(pk=wanted.pk, state=Print.State.RUNNING)
    patiently(lambda: running.update(**ended, ended=timezone.now()))


def _make_still(engine: Engine, scene: Scene, wanted: Print, watch: Watch) -> None:
    path = wanted.folder / FILM_FILE
    film = filling.open_film(path, engine, scene.print)
    # Time that was spent before an interruption counts, and its samples are there.
    progress = Progress(wanted.pk, time.monotonic(), film.samples, before=wanted.seconds_spent if film.samples else 0.0)

    def report(done: int) -> bool:
        progress.report(done, scene.print.samples)
        return scene.print.seconds is None or progress.spent < scene.print.seconds

    filling.fill(engine, film, scene.print, path, watch, report)
    _write(engine, film, scene, wanted, watch)


def _write(engine: Engine, film: Film, scene: Scene, wanted: Print, watch: Watch) -> None:
    settings = scene.print
    # Should writing fail, what was computed is there to go on from.
    filling.keep_film(wanted.folder / FILM_FILE, film)
    picture, shown = filling.finished(engine, film, settings, watch)
    watch.check(now=True)
    written = list(write_files(wanted.folder, engine, film, scene, picture, shown))
    for kind, path in written:
        put(storages["prints"], path, wanted.file_name(kind))
