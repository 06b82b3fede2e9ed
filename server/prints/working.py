"""Making a final frame: samples in small steps, the film kept on the way, files at the end.

In: a `Print`. Out: its PNG and EXR, or its error. Called by the worker's task. A film on disk knows its own
samples, so a frame that was interrupted anywhere comes out equal to the bit.
"""

import logging
import os
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.utils import timezone

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import display_rgb, display_rgba
from lantern.picture.exr import write_exr
from lantern.picture.files import write_png
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.prints.models import Print
from server.projects import storage

log = logging.getLogger(__name__)
REPORT_SECONDS = 1.0
KEEP_FILM_SECONDS = 5.0
FILM_FILE = "film.npz"


class Canceled(Exception):
    """Somebody no longer wants this print."""


@dataclass
class _Progress:
    """Writes progress to the database now and then, and notices cancelling."""

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
        if not Print.objects.filter(pk=self.number, state=Print.State.RUNNING).update(**fields):
            raise Canceled


def work_on(number: int) -> None:
    """Make print `number` whole. Returns without a word when it was cancelled or has ended already."""
    claimed = Print.objects.filter(pk=number, state__in=(Print.State.QUEUED, Print.State.RUNNING))
    if not claimed.update(state=Print.State.RUNNING):
        return
    wanted = Print.objects.get(pk=number)
    wanted.folder.mkdir(parents=True, exist_ok=True)
    try:
        _make(wanted)
    except Canceled:
        log.info("print %s cancelled", number)
    except Exception as error:
        log.exception("print %s failed", number)
        Print.objects.filter(pk=number).update(
            state=Print.State.FAILED, error=str(error) or type(error).__name__, ended=timezone.now(), seconds_left=None
        )
    (wanted.folder / FILM_FILE).unlink(missing_ok=True)


def _make(wanted: Print) -> None:
    scene = read_scene(wanted.scene)
    paths = storage.paths_for(scene)

    def resolve(reference: FileRef) -> Path:
        return Path(paths[reference.sha256])

    engine = Engine()
    try:
        engine.open(scene, resolve)
        film = _open_film(wanted.folder / FILM_FILE, scene)
        _fill(engine, film, scene, wanted)
        _write(engine, film, scene, wanted)
    finally:
        engine.close()
    Print.objects.filter(pk=wanted.pk, state=Print.State.RUNNING).update(
        state=Print.State.DONE, samples_done=scene.print.samples, seconds_left=None, ended=timezone.now()
    )


def _open_film(path: Path, scene: Scene) -> Film:
    """A new film, or the one that an interrupted worker kept."""
    film = Film(scene.print.width, scene.print.height, aovs=scene.print.layers)
    if path.is_file():
        with np.load(path) as kept:
            film.restore(dict(kept))
    return film


def _keep_film(path: Path, film: Film) -> None:
    partial = path.with_name(f"partial-{path.name}")
    np.savez(partial, **film.arrays())
    os.replace(partial, path)


def _fill(engine: Engine, film: Film, scene: Scene, wanted: Print) -> None:
    progress = _Progress(wanted.pk, time.monotonic(), film.samples)
    kept = time.monotonic()
    settings = scene.print
    while not film.is_done(settings.samples):
        engine.trace(film, film.samples + 1, noise=settings.noise_target, transparent=settings.transparent)
        progress.report(film.samples, scene.print.samples)
        if time.monotonic() - kept > KEEP_FILM_SECONDS:
            _keep_film(wanted.folder / FILM_FILE, film)
            kept = time.monotonic()


def _write(engine: Engine, film: Film, scene: Scene, wanted: Print) -> None:
    settings = scene.print
    picture = engine.develop(film, denoise="high" if settings.denoise else None, transparent=settings.transparent)
    show = display_rgba if settings.transparent else display_rgb
    write_png(wanted.file("png"), show(picture, scene.look.exposure, scene.look.view))
    write_exr(wanted.file("exr"), engine.channels(film, picture))
