"""Filling the film of a frame: samples in small steps, kept on the way, seen to be wanted still.

In: an engine with the frame's document open, a print. Out: its film. Called by `working` and `sequence`. A film on disk
knows its own samples, so a frame that was interrupted anywhere comes out equal to the bit.
"""

import logging
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.db import connections

from lantern.engine import filling
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import Developed
from lantern.scene.printing import PrintSettings
from server.prints.models import Print
from server.runtime.durable import put_in_place
from server.runtime.patience import AWAY, patiently

log = logging.getLogger(__name__)
REPORT_SECONDS = 1.0
KEEP_FILM_SECONDS = 5.0
LOOK_SECONDS = 0.4


class Canceled(Exception):
    """Somebody no longer wants this print."""


@dataclass
class Progress:
    """Writes progress to the database now and then."""

    number: int
    started: float
    first_sample: int
    reported: float = 0.0
    before: float = 0.0
    """Seconds that were spent on it before it was interrupted."""
    left: float | None = None
    """Seconds that what is left will take, as far as can be said."""

    @property
    def spent(self) -> float:
        """Seconds in all."""
        return self.before + time.monotonic() - self.started

    def report(self, samples: int, wanted: int) -> None:
        """Say how many samples there are of those that are wanted."""
        now = time.monotonic()
        done = samples - self.first_sample
        self.left = (now - self.started) / done * (wanted - samples) if done > 0 else None
        if now - self.reported < REPORT_SECONDS:
            return
        self.reported = now
        fields = {"samples_done": samples, "seconds_left": self.left, "seconds_spent": self.spent}
        with suppress(*AWAY):  # the next report comes soon
            Print.objects.filter(pk=self.number, state=Print.State.RUNNING).update(**fields)


class Watch:
    """Notices within half a second that a print is not wanted any more, whatever is being done, and stops that."""

    def __init__(self, number: int, engine: Engine) -> None:
        self._number, self._engine = number, engine
        self._over = threading.Event()
        self.is_canceled = False
        self._thread = threading.Thread(target=self._look, name=f"watch-{number}", daemon=True)

    def __enter__(self) -> "Watch":
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


def open_film(path: Path, engine: Engine, settings: PrintSettings) -> Film:
    """A new film, or the one that an interrupted worker kept."""
    film = engine.film_for(settings.width, settings.height, aovs=settings.layers)
    if path.is_file():
        with np.load(path) as kept:
            film.restore(dict(kept))
    film.select(settings.window)
    return film


def keep_film(path: Path, film: Film) -> None:
    """Keep a film on this machine; where that cannot be, the one that was kept before stays."""
    partial = path.with_name(f"partial-{path.name}")
    try:
        np.savez(partial, **film.arrays())
        put_in_place(partial, path)
    except OSError:
        # The film that was kept before is still there, and this one is still in memory.
        partial.unlink(missing_ok=True)
        log.warning("the film of a print cannot be kept", exc_info=True)


def finished(engine: Engine, film: Film, settings: PrintSettings, watch: Watch) -> tuple[Developed, np.ndarray]:
    """(the picture of a film, and as the display shows it (h, w, 3 or 4) uint8). Raises Canceled."""
    found = filling.finished(engine, film, settings, lambda: watch.is_canceled)
    if found is None:
        raise Canceled
    return found


def fill(
    engine: Engine,
    film: Film,
    settings: PrintSettings,
    path: Path,
    watch: Watch,
    report: Callable[[int], bool],
    seed: int = 0,
) -> None:
    """Bring a film to the samples of a print, and keep it at `path` on the way. Raises Canceled.

    `report` is told how many there are, and says whether there is time for more. Another `seed` gives other noise.
    """
    kept = time.monotonic()

    def goes_on(samples: int) -> bool:
        nonlocal kept
        watch.check()
        if not report(samples):
            return False
        if time.monotonic() - kept > KEEP_FILM_SECONDS:
            keep_film(path, film)
            kept = time.monotonic()
        return True

    while not filling.fill(engine, film, settings, goes_on, lambda: watch.is_canceled, seed):
        watch.check(now=True)


def fill_quietly(
    engine: Engine,
    film: Film,
    settings: PrintSettings,
    watch: Watch,
    is_wanted: Callable[[], bool],
    seed: int = 0,
) -> bool:
    """Bring the region of a film to the samples of a print, and keep nothing; False when it is not wanted any more.

    Raises Canceled.
    """
    while not filling.fill(engine, film, settings, lambda _: is_wanted(), lambda: watch.is_canceled, seed):
        watch.check(now=True)
    return film.is_done(settings.samples)
