"""A file that somebody brings, with the name that they know it by, and the files that it may refer to.

In: a path. Out: bytes of it and of what lies beside it. Made by `reading`, given to the readers. Nothing outside the
file's own folder is given.
"""

import os
from dataclasses import dataclass
from pathlib import Path, PurePosixPath, PureWindowsPath
from urllib.parse import unquote

from lantern.assets.errors import AssetError

DEFAULT_LIMIT = 1 << 30
"""Largest file and largest unpacked archive [bytes]."""
_MOST_NEIGHBOURS = 20_000
_DEEPEST = 4
"""Folders below that of a file in which what it refers to is searched."""


@dataclass(frozen=True)
class Source:
    """A file to be read. `name` is what messages call it.

    `folder` is where what it refers to lies; None when it came alone. `archived` says that it came in a zip. `clip` is
    the name of the motion that is wanted, if not the first.
    """

    path: Path
    name: str
    limit: int = DEFAULT_LIMIT
    folder: Path | None = None
    archived: bool = False
    clip: str | None = None

    def fail(self, problem: str) -> AssetError:
        """An error about this file."""
        return AssetError(self.name, problem)

    def beside(self, uri: str) -> bytes:
        """Content of the file that a relative URI names. Raises AssetError when it is not there, or not its own."""
        relative = PurePosixPath(unquote(uri))
        if ":" in uri or relative.is_absolute() or ".." in relative.parts or "\\" in uri:
            raise self.fail(f"refers to {uri[:80]!r}, which is outside its own files")
        if self.folder is None:
            raise self.fail(f"refers to {uri[:80]!r}; upload a zip of it with its files")
        path = self.path.parent / relative
        if not path.resolve().is_relative_to(self.folder.resolve()):
            raise self.fail(f"refers to {uri[:80]!r}, which is outside its own files")
        if not path.is_file():
            where = "not in the zip" if self.archived else "missing"
            raise self.fail(f"the file {uri[:80]!r} that it refers to is {where}")
        return path.read_bytes()


class Neighbours:
    """The files that came with one, found by their names alone: other programs write paths of other machines."""

    def __init__(self, source: Source) -> None:
        self._found: dict[str, list[Path]] = {}
        if source.folder is None:
            return
        for path in _below(source.folder):
            self._found.setdefault(path.name.lower(), []).append(path)

    def find(self, mentioned: str) -> Path | None:
        """The file that a path means, whatever its case and slashes; of several, the one whose folders are alike."""
        parts = [part.lower() for part in PureWindowsPath(mentioned.strip().strip('"')).parts]
        if not parts:
            return None
        alike = self._found.get(parts[-1], [])
        return max(alike, key=lambda path: _shared_tail(path, parts), default=None)


def _below(folder: Path) -> list[Path]:
    found: list[Path] = []
    for place, folders, names in os.walk(folder):
        if len(Path(place).relative_to(folder).parts) >= _DEEPEST:
            folders.clear()
        folders.sort()
        found += [path for name in sorted(names) if not (path := Path(place) / name).is_symlink()]
        if len(found) > _MOST_NEIGHBOURS:
            break
    return found


def _shared_tail(path: Path, parts: list[str]) -> int:
    own = [part.lower() for part in path.parts]
    return next((n for n in range(min(len(own), len(parts))) if own[-1 - n] != parts[-1 - n]), len(parts))
