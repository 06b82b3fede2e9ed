"""Where compiled kernels are kept: one folder for each state of the kernel sources and their tools.

In: the source files of the kernel rooms, library versions, `LANTERN_CACHE`.
Out: a folder that Numba's disk cache uses. Called by `lantern.kernel` on import.
"""

import hashlib
import os
import shutil
import time
from functools import cache
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numba
from numba.core.caching import UserProvidedCacheLocator

TRACING = ("kernel", "surface", "pattern", "light", "rays", "film", "transport", "preview")
"""Rooms whose kernels call one another."""
FINISHING = ("kernel", "picture/look")
"""Rooms of the kernels of the look, which trace nothing: changing them leaves those that do as they are."""
KEEP_UNUSED_DAYS = 7


def cache_root() -> Path:
    """Folder for everything that can be made again: `$LANTERN_CACHE`, else `~/.cache/velvet-lantern`."""
    chosen = os.environ.get("LANTERN_CACHE")
    return Path(chosen) if chosen else Path.home() / ".cache" / "velvet-lantern"


@cache
def source_digest(rooms: tuple[str, ...] = TRACING) -> str:
    """First 16 hex digits of a hash over the kernel sources of rooms and the versions of what compiles them.

    Taken once a process: sources that change under a running one do not change what it runs.
    """
    digest = hashlib.sha256()
    for package in ("numba", "llvmlite", "numpy", "embreex"):
        digest.update(f"{package} {version(package)}\n".encode())
    package_root = Path(__file__).resolve().parent.parent
    sources = [package_root / "color.py"]
    for room in rooms:
        sources += sorted((package_root / room).rglob("*.py"))
    for source in sources:
        digest.update(str(source.relative_to(package_root)).encode())
        digest.update(source.read_bytes())
    # Numba's index also keys on the file's path and time stamp; the checkout path keeps two clones apart.
    digest.update(str(package_root).encode())
    return digest.hexdigest()[:16]


def activate() -> Path:
    """Point Numba at this state's folders, drop folders unused for a week, and return that of the tracing kernels."""
    root, folders = cache_root(), (folder(), folder(FINISHING))
    for current in folders:
        current.mkdir(parents=True, exist_ok=True)
        os.utime(current)
    oldest = time.time() - KEEP_UNUSED_DAYS * 86400
    for other in root.glob("kernels-*"):
        if other not in folders and other.stat().st_mtime < oldest:
            shutil.rmtree(other, ignore_errors=True)
    # Numba makes its settings attributes at import time, where a type checker cannot see them.
    setattr(numba.config, "CACHE_DIR", str(folders[0]))  # noqa: B010
    setattr(numba.config, "CACHE_LOCATOR_CLASSES", f"{__name__}.RoomLocator")  # noqa: B010
    return folders[0]


def folder(rooms: tuple[str, ...] = TRACING) -> Path:
    """The folder of this state of rooms; other things made from the kernel sources may be kept in it too."""
    return cache_root() / f"kernels-{source_digest(rooms)}"


class RoomLocator(UserProvidedCacheLocator):
    """Tells Numba the folder of a kernel by the room of its source."""

    def __init__(self, py_func: Any, py_file: str) -> None:
        super().__init__(py_func, py_file)
        rooms = FINISHING if FINISHING[-1] in Path(py_file).as_posix() else TRACING
        self._cache_path = str(folder(rooms) / self.get_suitable_cache_subpath(py_file))


def is_compiled() -> bool:
    """Whether the big kernels have already been left in this state's folder."""
    big = ((TRACING, "passes"), (TRACING, "looking"), (FINISHING, "grade"))
    return all(any(folder(rooms).rglob(f"{module}.*.nbi")) for rooms, module in big)
