"""Several workers at one print: the one that leads it calls those that have nothing to do, and all take pieces.

In: an engine with the document open, the print, what this worker makes of a piece. Out: the pieces, handed in. Called
by `working` and `sequence` of whoever leads, and by `helping`. Any of them may die: its pieces are taken again, and
another worker leads on with those that are done.
"""

import logging
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from django.core.files.storage import storages
from procrastinate.contrib.django.models import ProcrastinateJob

from lantern.engine.engine import Engine
from lantern.engine.planning import costs_of
from lantern.film.blocks import BLOCK
from lantern.film.film import Film
from lantern.scene.document import Scene
from lantern.scene.printing import PrintSettings
from lantern.sharing.parts import lay_in, part_of
from lantern.sharing.pieces import divided, piece_count
from server.prints import filling, pieces, tasks
from server.prints.filling import Canceled, Watch
from server.prints.memory import film_bytes_of
from server.prints.models import Piece, Print
from server.prints.pieces import USUAL_SPEED, Taken
from server.runtime.patience import patiently
from server.runtime.stores import local_path
from server.workers.here import KINDS, alive, here, told_speed
from server.workers.models import Worker

log = logging.getLogger(__name__)
LOOK_SECONDS = 1.0
"""How often is asked whether anybody has nothing to do, and whether a piece is still wanted."""
WORTH_SECONDS = 8.0
"""Work that takes the leader less than this is not shared: the others would hardly have opened it."""
WAIT_SECONDS = 0.3
CALL_SECONDS = 5.0
"""Between two calls for help: whoever cannot, as its storage is away, is not called on and on."""
Make = Callable[[Taken, Callable[[], bool]], Path | None]
"""Makes a piece for as long as it is wanted: a file of this machine, or None when it was not made whole."""


def can_be_cut(wanted: PrintSettings) -> bool:
    """Whether a frame can be made in pieces: raw noise is judged over all of it, time is one machine's."""
    return wanted.seconds is None and (wanted.noise_target is None or wanted.finish_noise is not None)


def others_wait() -> bool:
    """Whether prints wait that nobody is at."""
    waiting = ProcrastinateJob.objects.filter(queue_name__in=KINDS.values(), status="todo")
    return waiting.exclude(task_name=tasks.help_print.name).exists()


def free_hands(scene: Scene, kind: str) -> list[Worker]:
    """Other workers that have nothing to do, and could help with a print of a document."""
    me = here()
    if me is None or others_wait():
        return []
    free = alive().filter(print=None, kinds__contains=kind, memory__gte=film_bytes_of(scene)).exclude(pk=me.pk)
    return list(free)


@dataclass
class Hands:
    """Looks now and then for workers that have nothing to do."""

    scene: Scene
    kind: str
    looked: float = field(default_factory=time.monotonic)
    found: list[Worker] = field(default_factory=list)
    called: float | None = None

    def are_free(self, seconds_left: float | None) -> bool:
        """Whether there are some, and so much to do that they are worth calling."""
        if time.monotonic() - self.looked > LOOK_SECONDS and (seconds_left or 0.0) > WORTH_SECONDS:
            self.looked = time.monotonic()
            self.found = patiently(lambda: free_hands(self.scene, self.kind))
        return bool(self.found)

    def speeds(self) -> list[float]:
        """What they do in a second, and what this worker does."""
        me = here()
        every = [*self.found, me] if me is not None else self.found
        return [worker.speed or USUAL_SPEED for worker in every]


def call(item: Print, hands: Hands) -> None:
    """Have those that have nothing to do help, while there are pieces that nobody is at."""
    if hands.called is None or time.monotonic() - hands.called >= CALL_SECONDS:
        hands.called = time.monotonic()
        patiently(lambda: _call(item, hands))


def _call(item: Print, hands: Hands) -> None:
    if not Piece.objects.filter(print=item, file="", leases=None).exists():
        return
    called = ProcrastinateJob.objects.filter(task_name=tasks.help_print.name, status="todo").count()
    for _ in free_hands(hands.scene, hands.kind)[called:]:
        tasks.call_help(item.pk, hands.kind, item.priority)


def cut_frame(engine: Engine, film: Film, item: Print, wanted: PrintSettings, watch: Watch, hands: Hands) -> None:
    """Cut what is left of a frame into pieces, which go on from its film as it is. Raises Canceled.

    One more sample is taken to count what blocks cost: glass is ten times as dear as ground.
    """
    while (costs := costs_of(engine, film, film.samples + 1, transparent=wanted.transparent)) is None:
        watch.check(now=True)
    each = np.full(costs.shape, wanted.samples) if film.plan is None else film.plan
    # Blocks that have ended cost nothing; a ray more keeps a piece from being free.
    left = np.maximum(each - film.samples, 0) * costs * float(BLOCK * BLOCK) + 1.0
    count = piece_count(float(left.sum()), hands.speeds())
    base = pieces.partial(item)
    with base.open("wb") as target:
        np.savez(target, **film.arrays())
    found = divided(film.region, left, count)
    wanted_pieces = [
        Piece(print=item, cost=p.cost, **dict(zip(("x", "y", "width", "height"), p.region, strict=True))) for p in found
    ]
    pieces.cut(item, wanted_pieces, base)
    log.info("print %s cut into %s pieces", item.pk, len(wanted_pieces))


@dataclass
class Together:
    """This worker's part in a print that several make."""

    item: Print
    worker: Worker
    watch: Watch
    make: Make

    def one(self) -> bool:
        """Take a piece and make it; False when there is none to take. Raises Canceled."""
        taken = patiently(lambda: pieces.take(self.item, self.worker))
        if taken is None:
            return False
        begun, looked, wanted = time.monotonic(), time.monotonic(), True

        def is_wanted() -> bool:
            nonlocal looked, wanted
            self.watch.check()
            if time.monotonic() - looked > LOOK_SECONDS:
                looked = time.monotonic()
                wanted = patiently(Piece.objects.filter(pk=taken.piece.pk, file="").exists)
            return wanted

        try:
            path = self.make(taken, is_wanted)
        except BaseException:
            pieces.give_back(taken)
            raise
        if path is None:
            pieces.give_back(taken)
        elif pieces.hand_in(taken, path):
            seconds = max(time.monotonic() - begun, 1e-3)
            log.info("piece %s of print %s made in %.1f s", taken.piece.pk, self.item.pk, seconds)
            told_speed(taken.piece.cost / seconds)
        return True

    def open_ones(self) -> bool:
        """Whether some piece is not done. Raises Canceled."""
        self.watch.check()
        return patiently(Piece.objects.filter(print=self.item, file="").exists)

    def until_done(self) -> Iterator[None]:
        """Make pieces until all are done, whoever does them. Raises Canceled."""
        while self.open_ones():
            if not self.one():
                time.sleep(WAIT_SECONDS)
            yield


def piece_maker(engine: Engine, film: Film, item: Print, wanted: PrintSettings, watch: Watch) -> Make:
    """Makes regions of a frame in a film that has what all pieces go on from."""

    def make(taken: Taken, is_wanted: Callable[[], bool]) -> Path | None:
        film.select(taken.piece.region)
        whole = filling.fill_quietly(engine, film, wanted, watch, is_wanted)
        if not whole or not film.is_done(wanted.samples):
            return None
        path = pieces.partial(item)
        with path.open("wb") as target:
            np.savez(target, **part_of(film))
        return path

    return make


def open_base(film: Film, item: Print) -> None:
    """Bring a film to what the pieces of its frame go on from. Raises Canceled when that is gone."""
    try:
        with np.load(local_path(storages["prints"], pieces.base_name(item))) as kept:
            fits = film.restore(dict(kept))
    except FileNotFoundError as error:
        raise Canceled from error
    if not fits:
        raise RuntimeError(
            "the film that this print goes on from was made for another one: cancel it and print it again"
        )


def lay_in_done(film: Film, item: Print, laid: set[int]) -> None:
    """Put the pieces that are done, and have not been, into a film."""
    done = Piece.objects.filter(print=item).exclude(file="").exclude(pk__in=laid)
    for piece in patiently(lambda: list(done)):
        with np.load(local_path(storages["prints"], piece.file)) as part:
            lay_in(film, piece.region, dict(part))
        laid.add(piece.pk)
