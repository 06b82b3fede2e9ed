"""Waiting for a database that is away for a moment: it is restarted, or the machine is busy."""

import logging
import time
from collections.abc import Callable
from typing import TypeVar

from django.db import InterfaceError, OperationalError, close_old_connections
from procrastinate.exceptions import ConnectorException

log = logging.getLogger(__name__)
T = TypeVar("T")
AWAY = (OperationalError, InterfaceError)
AWAY_SECONDS = (0.1, 0.2, 0.5, 1.0, 2.0, 4.0, 8.0)
"""Waits before trying again: a restart takes a few seconds."""


def _is_away(error: Exception) -> bool:
    """Whether the database does not answer; the queue of tasks says so in words of its own."""
    return isinstance(error, AWAY) or isinstance(error.__cause__, AWAY)


def patiently(work: Callable[[], T]) -> T:
    """What `work` returns, tried again while the database does not answer; it must change nothing twice."""
    for wait in AWAY_SECONDS:
        try:
            return work()
        except (*AWAY, ConnectorException) as error:
            if not _is_away(error):
                raise
            log.warning("the database does not answer (%s); trying again in %s s", str(error).strip(), wait)
            close_old_connections()
            time.sleep(wait)
    return work()
