"""Work in the database for sockets: in threads of its own, so that no project's work waits for another's.

In: a function and the project that it is about. Out: what the function returns. Called by the consumer and by sessions.
Work on one project runs in the order in which it came; a database that is away for a while is waited for.
"""

import asyncio
import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from asgiref.sync import sync_to_async
from django.db import close_old_connections

from server.runtime.patience import AWAY, AWAY_SECONDS

log = logging.getLogger(__name__)
T = TypeVar("T")
THREADS = 16
_threads = ThreadPoolExecutor(THREADS, thread_name_prefix="database")
_lanes: dict[int, "Lane"] = {}


class Lane:
    """The queue of one project, kept as long as something waits in it."""

    def __init__(self) -> None:
        self.lock = asyncio.Lock()
        self.users = 0


async def in_database(project: int, work: Callable[[], T]) -> T:
    """Run `work` in a thread, after all earlier work on the same project.

    `work` is tried again when the connection breaks, so it must change nothing twice: one transaction, with a request
    that is remembered.
    """
    lane = _lanes.setdefault(project, Lane())
    lane.users += 1
    try:
        async with lane.lock:
            return await _patiently(work)
    finally:
        lane.users -= 1
        if lane.users == 0:
            _lanes.pop(project, None)


def is_busy() -> bool:
    """Whether some work is running or waiting."""
    return bool(_lanes)


async def _patiently(work: Callable[[], T]) -> T:
    for wait in AWAY_SECONDS:
        try:
            return await _in_thread(work)
        except AWAY as error:
            log.warning("the database does not answer (%s); trying again in %s s", str(error).strip(), wait)
            await asyncio.sleep(wait)
    return await _in_thread(work)


async def _in_thread(work: Callable[[], T]) -> T:
    def connected() -> T:
        close_old_connections()
        try:
            return work()
        finally:
            close_old_connections()

    return await sync_to_async(connected, thread_sensitive=False, executor=_threads)()
