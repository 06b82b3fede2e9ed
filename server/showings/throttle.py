"""Counting what comes too often: guesses of tokens and passwords, comments, sockets.

In: what is counted, and how often it may be. Out: nothing, or TooOften. The counts are in this process's memory.
"""

from django.core.cache import cache


class TooOften(Exception):
    """It has been tried too often; the message says how long to wait."""


def count(what: str, most: int, seconds: int) -> None:
    """Count one more. Raises TooOften beyond `most` within `seconds` of the first."""
    key = f"often:{what}"
    cache.add(key, 0, seconds)
    if _counted(key, seconds) > most:
        raise TooOften(_wait(seconds))


def check(what: str, most: int, seconds: int) -> None:
    """Raises TooOften where `most` have been counted already."""
    if (cache.get(f"often:{what}") or 0) >= most:
        raise TooOften(_wait(seconds))


def _counted(key: str, seconds: int) -> int:
    try:
        return int(cache.incr(key))
    except ValueError:  # it ended between two lines
        cache.set(key, 1, seconds)
        return 1


def _wait(seconds: int) -> str:
    return f"Too often: wait {max(seconds // 60, 1)} minutes, then try again."
