"""The worker that this process is: told to the others as long as it lives.

In: its name, threads, memory and kinds. Out: its row, kept fresh, which `here` finds anywhere in its tasks. Called by
the worker command. One that is not of the version of the tables is refused, and one that becomes so ends.
"""

import hashlib
import logging
import os
import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from datetime import timedelta
from functools import lru_cache
from pathlib import Path

from django.db import connections
from django.db.models import QuerySet
from django.db.models.functions import Now

from server.runtime.paths import CHECKOUT
from server.runtime.patience import AWAY, patiently
from server.workers.models import Release, Worker

log = logging.getLogger(__name__)
HEARTBEAT_SECONDS = 2.0
SILENCE = timedelta(seconds=15)
"""After so long a worker that is not heard of is believed dead."""
KINDS = {"stills": "prints", "films": "films"}
"""What a worker takes, and the queue where that waits."""
_HERE: ContextVar[Worker | None] = ContextVar("worker", default=None)


class OtherVersion(RuntimeError):
    """This worker is not of the version of the tables."""


@lru_cache
def version() -> str:
    """Digest of the code that makes prints: pictures of two workers are one only if this is the same."""
    digest = hashlib.sha256()
    for room in ("lantern", "server"):
        for path in sorted((CHECKOUT / room).rglob("*.py")):
            digest.update(str(path.relative_to(CHECKOUT)).encode() + b"\0" + path.read_bytes())
    return digest.hexdigest()[:16]


def note_release(**_: object) -> None:
    """Write down which version the tables are of."""
    Release.objects.update_or_create(pk=1, defaults={"version": version()})


@lru_cache
def this_machine() -> str:
    """What tells this machine from others, until it is started anew: its name, and the number of this start."""
    return f"{os.uname().nodename} {Path('/proc/sys/kernel/random/boot_id').read_text().strip()}"


def is_busy_here() -> bool:
    """Whether a worker on this machine is at a print."""
    return alive().filter(machine=this_machine(), print__isnull=False).exists()


def check_version() -> None:
    """Raises OtherVersion."""
    wanted = Release.objects.filter(pk=1).first()
    if wanted is not None and wanted.version != version():
        raise OtherVersion(
            f"this worker is of version {version()}, and the server of {wanted.version}: "
            "bring the same checkout to both, and start the worker again"
        )


def here() -> Worker | None:
    """The worker that this is, None outside of one."""
    return _HERE.get()


def alive() -> QuerySet[Worker]:
    """Workers that have been heard of lately."""
    return Worker.objects.filter(seen__gt=Now() - SILENCE)


@contextmanager
def registered(name: str, threads: int, memory: int, kinds: list[str]) -> Iterator[Worker]:
    """Be a worker until the end of the block. Raises OtherVersion."""
    item = patiently(lambda: _written(name, threads, memory, kinds))
    over = threading.Event()
    heart = threading.Thread(target=_beat, args=(item.pk, over), name=f"worker-{item.pk}", daemon=True)
    token = _HERE.set(item)
    heart.start()
    try:
        yield item
    finally:
        over.set()
        heart.join()
        _HERE.reset(token)
        with suppress(*AWAY):
            Worker.objects.filter(pk=item.pk).delete()


def _written(name: str, threads: int, memory: int, kinds: list[str]) -> Worker:
    """A new row for this process; those of workers that are long gone are removed. Raises OtherVersion."""
    check_version()
    Worker.objects.filter(seen__lt=Now() - 20 * SILENCE).delete()
    told = {"machine": this_machine(), "version": version(), "threads": threads, "memory": memory}
    return Worker.objects.create(name=name, kinds=",".join(kinds), seen=Now(), **told)


def _beat(number: int, over: threading.Event) -> None:
    try:
        while not over.wait(HEARTBEAT_SECONDS):
            with suppress(*AWAY):
                Worker.objects.filter(pk=number).update(seen=Now())
                try:
                    check_version()
                except OtherVersion as error:
                    log.error("%s", error)
                    os.kill(os.getpid(), signal.SIGTERM)
                    return
    finally:
        connections.close_all()


@contextmanager
def busy(print_id: int, *, helps: bool = False) -> Iterator[None]:
    """Tell the others that this worker is at a print until the end of the block."""
    _tell(print=print_id, helps=helps)
    try:
        yield
    finally:
        _tell(print=None, helps=False)


def told_speed(speed: float) -> None:
    """Tell the others how fast this worker is [rays a second]."""
    if (item := here()) is not None:
        item.speed = speed
    _tell(speed=speed)


def _tell(**fields: object) -> None:
    item = here()
    if item is not None:
        patiently(lambda: Worker.objects.filter(pk=item.pk).update(**fields))
