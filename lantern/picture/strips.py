"""Work on strips of a picture, side by side on all cores."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any

LEAST_ROWS_OF = 1 << 15
"""Pixels of a strip at least: handing out smaller ones costs more than it saves."""
MOST_PIXELS = 1 << 18
"""Pixels of a strip at most, so that what is made on the way of a large picture stays small."""


@cache
def _workers_of(process: int) -> ThreadPoolExecutor:
    """Threads of one process: one that is forked from another has none of them."""
    return ThreadPoolExecutor(os.cpu_count(), thread_name_prefix="picture")


def _workers() -> ThreadPoolExecutor:
    return _workers_of(os.getpid())


def in_strips(height: int, width: int, work: Callable[[int, int], Any]) -> None:
    """Call `work` with rows (begin, end) until all of a picture is done; raises what it raises."""
    cores = os.cpu_count() or 1
    number = min(max(height * width // LEAST_ROWS_OF, 1), height, cores)
    number = min(max(number, height * width // MOST_PIXELS), height)
    edges = [height * i // number for i in range(number + 1)]
    if number == 1:
        work(0, height)
    else:
        list(_workers().map(work, edges[:-1], edges[1:]))


def at_once(number: int, work: Callable[[int, int], Any]) -> None:
    """Call `work` with each of so many things, as (begin, end) of one of them; raises what it raises."""
    list(_workers().map(work, range(number), range(1, number + 1)))
