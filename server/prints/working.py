"""Making a print: its film filled, its files written; of a film for the screen, frame after frame (`sequence`).

In: a `Print`. Out: its files, or its error. Called by the worker's task.
"""

import logging
import os
import time
from contextlib import suppress
from pathlib import Path

from django.conf import settings as of_machine
from django.core.files.storage import storages
from django.utils import timezone

from lantern.engine.engine import Engine
from lantern.engine.still_files import NAMES, write_files
from lantern.film.film import Film
from lantern.scene.document import PrintSettings, Scene
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.prints import filling, pieces, together
from server.prints.filling import Canceled, Progress, Watch
from server.prints.models import Print
from server.prints.sequence import discard_frames, make_film
from server.prints.together import Hands
from server.projects import storage
from server.runtime.patience import patiently
from server.runtime.stores import put
from server.workers.here import KINDS, busy, here, registered

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3
FILM_FILE = "film.npz"


def work_on(number: int) -> None:
    """Make print `number` whole, as the worker that this is. See `_work_on`."""
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
                _make_still(engine, scene, wanted, watch)
    finally:
        engine.close()
    ended = {"state": Print.State.DONE, "samples_done": wanted.samples, "seconds_left": None}
    running = Print.objects.filter(pk=wanted.pk, state=Print.State.RUNNING)
    patiently(lambda: running.update(**ended, ended=timezone.now()))


def _make_still(engine: Engine, scene: Scene, wanted: Print, watch: Watch) -> None:
    path, settings = wanted.folder / FILM_FILE, scene.print
    film = filling.open_film(path, engine, settings)
    # Time that was spent before an interruption counts, and its samples are there.
    progress = Progress(wanted.pk, time.monotonic(), film.samples, before=wanted.seconds_spent if film.samples else 0.0)
    hands = together.Hands(scene, wanted.worked_by)
    shared = wanted.pieces.exists()

    def report(done: int) -> bool:
        nonlocal shared
        progress.report(done, settings.samples)
        shared = together.can_be_cut(settings) and hands.are_free(progress.left)
        return not shared and (settings.seconds is None or progress.spent < settings.seconds)

    if not shared:
        filling.fill(engine, film, settings, path, watch, report)
    if shared:
        _share(engine, film, wanted, settings, watch, hands, progress)
    _write(engine, film, scene, wanted, watch)


def _share(
    engine: Engine, film: Film, wanted: Print, settings: PrintSettings, watch: Watch, hands: Hands, progress: Progress
) -> None:
    """Make what is left of a frame with other workers. Raises Canceled."""
    if not wanted.pieces.exists():
        together.cut_frame(film, wanted, settings, hands)
    together.open_base(film, wanted)
    worker = here()
    assert worker is not None
    share = together.Together(wanted, worker, watch, together.piece_maker(engine, film, wanted, settings, watch))
    laid: set[int] = set()

    def meanwhile() -> None:
        left, whole = pieces.cost_left(wanted)
        progress.report(int((1 - left / whole) * settings.samples), settings.samples)
        together.call(wanted, hands)

    together.call(wanted, hands)
    for _ in share.until_done(meanwhile):
        together.lay_in_done(film, wanted, laid)
    together.lay_in_done(film, wanted, laid)
    film.select(settings.window)


def _write(engine: Engine, film: Film, scene: Scene, wanted: Print, watch: Watch) -> None:
    settings = scene.print
    # Should writing fail, what was computed is there to go on from.
    filling.keep_film(wanted.folder / FILM_FILE, film)
    picture, shown = filling.finished(engine, film, settings, watch)
    watch.check(now=True)
    written = list(write_files(wanted.folder, engine, film, scene, picture, shown))
    for kind, path in written:
        put(storages["prints"], path, wanted.file_name(kind))
