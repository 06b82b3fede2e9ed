"""Making a print that is one frame: alone, and with other workers as soon as some have nothing to do.

In: an engine with the document open, a print. Out: its files in the storage of prints. Called by `working`.
"""

import time
from dataclasses import dataclass, field
from pathlib import Path

from django.core.files.storage import storages

from lantern.engine.engine import Engine
from lantern.engine.filling import samples_done
from lantern.engine.still_files import write_files
from lantern.film.film import Film
from lantern.scene.document import Scene
from server.prints import filling, pieces, together
from server.prints.filling import Progress, Watch
from server.prints.glimpses import Glimpses
from server.prints.models import Print
from server.prints.together import Hands, Together
from server.runtime.patience import patiently
from server.runtime.stores import put
from server.workers.here import here, told_speed

FILM_FILE = "film.npz"


@dataclass
class Still:
    """The frame of a print as the worker makes it that leads it."""

    engine: Engine
    scene: Scene
    wanted: Print
    watch: Watch
    film: Film = field(init=False)
    progress: Progress = field(init=False)
    hands: Hands = field(init=False)
    glimpses: Glimpses = field(init=False)

    def __post_init__(self) -> None:
        self.film = filling.open_film(self._path, self.engine, self.scene.print)
        # Time that was spent before an interruption counts, and its samples are there.
        spent = self.wanted.seconds_spent if self.film.samples else 0.0
        self.progress = Progress(self.wanted.pk, time.monotonic(), self.film.samples, before=spent)
        self.hands = Hands(self.scene, self.wanted.worked_by)
        self.glimpses = Glimpses(self.wanted.pk, self.engine)

    @property
    def _path(self) -> Path:
        return self.wanted.folder / FILM_FILE

    def make(self) -> None:
        """Fill its film and write its files. Raises Canceled."""
        if pieces.base_is_gone(self.wanted):
            pieces.discard_pieces(self.wanted)
        if not patiently(self.wanted.pieces.exists) and not self._alone():
            together.cut_frame(self.engine, self.film, self.wanted, self.scene.print, self.watch, self.hands)
        if patiently(self.wanted.pieces.exists):
            self._with_others()
        self._write()

    def _alone(self) -> bool:
        """Fill the film; False when there are others to share what is left."""
        settings, shared = self.scene.print, False

        def report(done: int) -> bool:
            nonlocal shared
            self.progress.report(done, settings.samples)
            if self.glimpses.show(self.film):
                told_speed(self.engine.ray_counts().rays / max(time.monotonic() - self.progress.started, 1e-3))
            shared = together.can_be_cut(settings) and self.hands.are_free(self.progress.left)
            return not shared and (settings.seconds is None or self.progress.spent < settings.seconds)

        filling.fill(self.engine, self.film, settings, self._path, self.watch, report)
        return not shared

    def _with_others(self) -> None:
        """Make what is left in pieces, with whoever has nothing to do."""
        settings, worker = self.scene.print, here()
        assert worker is not None
        together.open_base(self.film, self.wanted)
        before = samples_done(self.film, settings)
        make = together.piece_maker(self.engine, self.film, self.wanted, settings, self.watch)
        share, laid = Together(self.wanted, worker, self.watch, make), set[int]()
        together.call(self.wanted, self.hands)
        for _ in share.until_done():
            left, whole = pieces.cost_left(self.wanted)
            done = before + (1 - left / whole) * (settings.samples - before)
            self.progress.report(int(done), settings.samples)
            together.call(self.wanted, self.hands)
            together.lay_in_done(self.film, self.wanted, laid)
            self.film.select(settings.window)
            self.glimpses.show(self.film)
        together.lay_in_done(self.film, self.wanted, laid)
        self.film.select(settings.window)

    def _write(self) -> None:
        # Should writing fail, what was computed is there to go on from.
        filling.keep_film(self._path, self.film)
        picture, shown = filling.finished(self.engine, self.film, self.scene.print, self.watch)
        self.watch.check(now=True)
        self.glimpses.show_finished(shown)
        written = list(write_files(self.wanted.folder, self.engine, self.film, self.scene, picture, shown))
        for kind, path in written:
            put(storages["prints"], path, self.wanted.file_name(kind))
