"""A file that somebody brings, with the name that they know it by. Given to the readers."""

from dataclasses import dataclass
from pathlib import Path

DEFAULT_LIMIT = 1 << 30
"""Largest file and largest unpacked archive [bytes]."""


@dataclass(frozen=True)
class Source:
    """A file to be read. `name` is what messages call it; `is_stored` says that it lies under another name, alone."""

    path: Path
    name: str
    limit: int = DEFAULT_LIMIT
    is_stored: bool = False
