"""Waiting for a database that is away for a moment: it is restarted, or the machine is busy."""

import logging
import time
from collections.abc import Callable
from typing import TypeVar

from django.db import InterfaceError, OperationalError, close_old_connections

log = logging.getLogger(__name__)
T = TypeVar("T")
AWAY = (OperationalError, InterfaceError)
AWAY_SECONDS = (0.1, 0.2, 0.5, 1.0, 2.0, 4.0, 8.0)
"""Waits before trying again: a restart takes a few seconds."""


def patiently(work: Callable[[], T]) -> T:
    """What `work` returns, tried again while the database does not answer; it must change nothing twice."""
    for wait in AWAY_SECONDS:
        try:
            return work()
        except AWAY as error:
            log.warning("the database does not answer (%s); trying again in %s s", str(error).strip(), wait)
            close_old_connections()
            time.sleep(wait)
    return work()
