"""Making a final frame: samples in small steps, the film kept on the way, files at the end.

In: a `Print`. Out: its files, or its error. Called by the worker's task. A film on disk knows its own
samples, so a frame that was interrupted anywhere comes out equal to the bit.
"""

import logging
import threading
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.core.files.storage import storages
from django.db import connections
from django.utils import timezone

from lantern.engine.channels import channels_of
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.denoise import Quality
from lantern.picture.develop import display_rgb, display_rgba, hdr_rgb
from lantern.picture.exr import write_exr
from lantern.picture.files import write_png
from lantern.picture.hdr import write_pq_png
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.prints.models import Print
from server.projects import storage
from server.runtime.durable import put_in_place
from server.runtime.patience import AWAY, patiently
from server.runtime.stores import put

log = logging.getLogger(__name__)
REPORT_SECONDS = 1.0
KEEP_FILM_SECONDS = 5.0
LOOK_SECONDS = 0.4
MOST_ATTEMPTS = 3
FILM_FILE = "film.npz"


class Canceled(Exception):
    """Somebody no longer wants this print."""


@dataclass
class _Progress:
    """Writes progress to the database now and then."""

    number: int
    started: float
    first_sample: int
    reported: float = 0.0

    def report(self, samples: int, wanted: int) -> None:
        now = time.monotonic()
        if now - self.reported < REPORT_SECONDS:
            return
        self.reported = now
        done = samples - self.first_sample
        left = (now - self.started) / done * (wanted - samples) if done else None
        fields = {"samples_done": samples, "seconds_left": left, "seconds_spent": now - self.started}
        with suppress(*AWAY):  # the next report comes soon
            Print.objects.filter(pk=self.number, state=Print.State.RUNNING).update(**fields)


class _Watch:
    """Notices within half a second that a print is not wanted any more, whatever is being done, and stops that."""

    def __init__(self, number: int, engine: Engine) -> None:
        self._number, self._engine = number, engine
        self._over = threading.Event()
        self.is_canceled = False
        self._thread = threading.Thread(target=self._look, name=f"watch-{number}", daemon=True)

    def __enter__(self) -> "_Watch":
        self._thread.start()
        return self

    def __exit__(self, *exception: object) -> None:
        self._over.set()
        self._thread.join()

    def _look(self) -> None:
        try:
            while not self._over.wait(LOOK_SECONDS):
                with suppress(*AWAY):  # it is away for a moment
                    self._ask()
                if self.is_canceled:
                    self._engine.cancel()
        finally:
            connections.close_all()

    def _ask(self) -> None:
        self.is_canceled |= not Print.objects.filter(pk=self._number, state=Print.State.RUNNING).exists()

    def check(self, *, now: bool = False) -> None:
        """Raises Canceled when the print is not wanted any more, as far as is known, or as it stands `now`."""
        if now:
            patiently(self._ask)
        if self.is_canceled:
            raise Canceled


def work_on(number: int) -> None:
    """Make print `number` whole. Returns without a word when it was cancelled or has ended already.

    A print that brings its worker down is tried MOST_ATTEMPTS times in all. The film of one that failed is kept, so
    that it can be tried again where it stands.
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
    for name in (FILM_FILE, "picture.png", "picture.exr"):
        (item.folder / name).unlink(missing_ok=True)
    with suppress(OSError):
        item.folder.rmdir()


def _make(wanted: Print) -> None:
    scene = read_scene(wanted.scene)
    paths = patiently(lambda: storage.paths_for(scene))

    def resolve(reference: FileRef) -> Path:
        return Path(paths[reference.sha256])

    engine = Engine(final=True)
    try:
        with _Watch(wanted.pk, engine) as watch:
            engine.open(scene, resolve)
            watch.check()
            film = _open_film(wanted.folder / FILM_FILE, engine, scene)
            _fill(engine, film, scene, wanted, watch)
            _write(engine, film, scene, wanted, watch)
    finally:
        engine.close()
    ended = {"state": Print.State.DONE, "samples_done": scene.print.samples, "seconds_left": None}
    running = Print.objects.filter(pk=wanted.pk, state=Print.State.RUNNING)
    patiently(lambda: running.update(**ended, ended=timezone.now()))


def _open_film(path: Path, engine: Engine, scene: Scene) -> Film:
    """A new film, or the one that an interrupted worker kept."""
    film = engine.film_for(scene.print.width, scene.print.height, aovs=scene.print.layers)
    if path.is_file():
        with np.load(path) as kept:
            film.restore(dict(kept))
    return film


def _keep_film(path: Path, film: Film) -> None:
    partial = path.with_name(f"partial-{path.name}")
    try:
        np.savez(partial, **film.arrays())
        put_in_place(partial, path)
    except OSError:
        # The film that was kept before is still there, and this one is still in memory.
        partial.unlink(missing_ok=True)
        log.warning("the film of a print cannot be kept", exc_info=True)


def _fill(engine: Engine, film: Film, scene: Scene, wanted: Print, watch: _Watch) -> None:
    progress = _Progress(wanted.pk, time.monotonic(), film.samples)
    kept = time.monotonic()
    settings = scene.print
    while not film.is_done(settings.samples):
        engine.trace(film, film.samples + 1, noise=settings.noise_target, transparent=settings.transparent)
        watch.check()
        progress.report(film.samples, scene.print.samples)
        if time.monotonic() - kept > KEEP_FILM_SECONDS:
            _keep_film(wanted.folder / FILM_FILE, film)
            kept = time.monotonic()


def _write(engine: Engine, film: Film, scene: Scene, wanted: Print, watch: _Watch) -> None:
    settings = scene.print
    # Should writing fail, what was computed is there to go on from.
    _keep_film(wanted.folder / FILM_FILE, film)
    quality: Quality | None = "high" if settings.denoise else None
    picture = engine.develop_unless(lambda: watch.is_canceled, film, denoise=quality, transparent=settings.transparent)
    if picture is None:
        raise Canceled
    watch.check(now=True)
    show = display_rgba if settings.transparent else display_rgb
    png, exr = wanted.folder / "picture.png", wanted.folder / "picture.exr"
    write_png(png, show(picture, engine.shown.look, engine.surround(film, clean=settings.denoise)))
    write_exr(exr, channels_of(engine, film, picture))
    written = [(png, "png"), (exr, "exr")]
    if settings.hdr:
        written.append((wanted.folder / "picture-hdr.png", "hdr"))
        write_pq_png(written[-1][0], hdr_rgb(picture, engine.shown.look, engine.surround(film, clean=settings.denoise)))
    for path, kind in written:
        put(storages["prints"], path, wanted.file_name(kind))
