"""Who may remove stored files: nobody while a backup is being made.

A lock in the database (PostgreSQL, advisory locks), so that it goes with whoever held it.
"""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection

_NUMBER = 0x56_4C_42_4B
"""Of this lock among all advisory locks of the database."""


@contextmanager
def files_stay() -> Iterator[None]:
    """Nobody removes a stored file meanwhile; waits for who is at it."""
    _call("pg_advisory_lock_shared")
    try:
        yield
    finally:
        _call("pg_advisory_unlock_shared")


@contextmanager
def files_may_go() -> Iterator[bool]:
    """Whether files may be removed now; if not, somebody keeps them, and another time will do."""
    may = _call("pg_try_advisory_lock")
    try:
        yield may
    finally:
        if may:
            _call("pg_advisory_unlock")


def _call(function: str) -> bool:
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {function}(%s)", [_NUMBER])
        return cursor.fetchone()[0] is True
