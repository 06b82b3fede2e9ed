"""A zip of an asset with its files: unpacked for as long as it is read.

In: a source that is a zip. Out: a source that is the asset in it. Called by `reading`.
"""

import binascii
import shutil
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path, PurePosixPath
from tempfile import TemporaryDirectory

from lantern.assets.errors import AssetError
from lantern.assets.source import Source

ZIP_MAGIC = b"PK\x03\x04"
_MOST_FILES = 20_000
_BROKEN = (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError, binascii.Error, ValueError)


@contextmanager
def unpacked(source: Source, suffixes: tuple[str, ...]) -> Iterator[Source]:
    """The one asset in a zip, by the endings of its name, the first that any file has.

    Raises AssetError when it cannot be unpacked, is too large, or holds none or several.
    """
    with TemporaryDirectory() as place:
        folder = Path(place)
        try:
            names = _unpack(source, folder)
        except _BROKEN as error:
            if isinstance(error, AssetError):
                raise
            raise source.fail(f"the zip cannot be read ({error})") from error
        root = _only(source, names, suffixes)
        yield replace(source, path=folder / root, folder=folder, archived=True)


def _unpack(source: Source, folder: Path) -> list[PurePosixPath]:
    with zipfile.ZipFile(source.path) as archive:
        entries = [e for e in archive.infolist() if not e.is_dir() and not e.filename.startswith("__MACOSX/")]
        total = sum(e.file_size for e in entries)
        if total > source.limit:
            raise source.fail(f"unpacks to {total / 1e6:.1f} MB; the limit is {source.limit / 1e6:.1f} MB")
        if len(entries) > _MOST_FILES:
            raise source.fail(f"holds {len(entries)} files; the limit is {_MOST_FILES}")
        names = [PurePosixPath(e.filename.replace("\\", "/")) for e in entries]
        for entry, name in zip(entries, names, strict=True):
            if name.is_absolute() or ".." in name.parts or ":" in name.parts[0]:
                raise source.fail(f"holds {entry.filename[:80]!r}, which lies outside of it")
            target = folder / name
            target.parent.mkdir(parents=True, exist_ok=True)
            with archive.open(entry) as packed, target.open("wb") as file:
                shutil.copyfileobj(packed, file)
    return names


def _only(source: Source, names: list[PurePosixPath], suffixes: tuple[str, ...]) -> PurePosixPath:
    for suffix in suffixes:
        found = sorted(name for name in names if name.name.lower().endswith(suffix) and name.name[0] != ".")
        if len(found) == 1:
            return found[0]
        if found:
            raise source.fail(
                f"a zip must hold one asset; this one holds {len(found)} ending in {suffix}"
                f" ({', '.join(map(str, found[:3]))})"
            )
    raise source.fail(f"a zip must hold an asset; this one holds no file ending in {', '.join(suffixes)}")
