"""Files that are whole and on the disk before anybody hears of them, or are not there."""

import os
from collections.abc import Iterable
from pathlib import Path


def written(path: Path, chunks: Iterable[bytes]) -> None:
    """Write a file whole and have it on the disk, or leave nothing. Raises OSError."""
    partial = path.with_name(f".{path.name}.partial")
    try:
        with partial.open("wb") as target:
            for chunk in chunks:
                target.write(chunk)
        put_in_place(partial, path)
    except BaseException:
        partial.unlink(missing_ok=True)
        raise


def put_in_place(partial: Path, path: Path) -> None:
    """Give a file that was written under another name its own, once it is on the disk. Raises OSError."""
    with partial.open("rb") as file:
        os.fsync(file.fileno())
    os.replace(partial, path)
    sync_folder(path.parent)


def sync_folder(folder: Path) -> None:
    """Have the names in a folder on the disk: a file may be there and its name not."""
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)
