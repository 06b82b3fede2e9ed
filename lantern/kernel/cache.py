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

import numba

KERNEL_ROOMS = ("kernel", "surface", "pattern", "light", "rays", "film", "transport", "preview")
KEEP_UNUSED_DAYS = 7


def cache_root() -> Path:
    """Folder for everything that can be made again: `$LANTERN_CACHE`, else `~/.cache/velvet-lantern`."""
    chosen = os.environ.get("LANTERN_CACHE")
    return Path(chosen) if chosen else Path.home() / ".cache" / "velvet-lantern"


@cache
def source_digest() -> str:
    """First 16 hex digits of a hash over kernel sources and the versions of what compiles them.

    Taken once a process: sources that change under a running one do not change what it runs.
    """
    digest = hashlib.sha256()
    for package in ("numba", "llvmlite", "numpy", "embreex"):
        digest.update(f"{package} {version(package)}\n".encode())
    package_root = Path(__file__).resolve().parent.parent
    sources = [package_root / "color.py"]
    for room in KERNEL_ROOMS:
        sources += sorted((package_root / room).rglob("*.py"))
    for source in sources:
        digest.update(str(source.relative_to(package_root)).encode())
        digest.update(source.read_bytes())
    # Numba's index also keys on the file's path and time stamp; the checkout path keeps two clones apart.
    digest.update(str(package_root).encode())
    return digest.hexdigest()[:16]


def activate() -> Path:
    """Point Numba at this state's folder, drop folders unused for a week, and return the folder."""
    root = cache_root()
    current = folder()
    current.mkdir(parents=True, exist_ok=True)
    os.utime(current)
    oldest = time.time() - KEEP_UNUSED_DAYS * 86400
    for other in root.glob("kernels-*"):
        if other != current and other.stat().st_mtime < oldest:
            shutil.rmtree(other, ignore_errors=True)
    # Numba makes its settings attributes at import time, where a type checker cannot see them.
    setattr(numba.config, "CACHE_DIR", str(current))  # noqa: B010
    return current


def folder() -> Path:
    """This state's folder; other things made from the kernel sources may be kept in it too."""
    return cache_root() / f"kernels-{source_digest()}"


def is_compiled() -> bool:
    """Whether the big kernels have already been left in this state's folder."""
    return all(any(folder().rglob(f"{module}.*.nbi")) for module in ("passes", "looking"))
