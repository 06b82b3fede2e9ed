"""A zip of an asset with its files, or of several: unpacked for as long as it is read.

In: a source that is a zip. Out: sources that are the assets in it. Called by `reading`; `joining` says how several are
listed.
"""

import binascii
import json
import shutil
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path, PurePosixPath
from tempfile import TemporaryDirectory
from typing import NamedTuple

from lantern.assets.errors import AssetError
from lantern.assets.source import Source

ZIP_MAGIC = b"PK\x03\x04"
_MOST_FILES = 20_000
_BROKEN = (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError, binascii.Error, ValueError)


LIST = "assets.json"
"""Where a zip of several assets lists them."""
_LONGEST_LIST = 1 << 20


class Entry(NamedTuple):
    """One of several assets: its folder, where it lies (a folder is searched), what people call it."""

    folder: str
    path: str
    name: str


def is_zip(path: Path) -> bool:
    """Whether a file begins as a zip does, and is no USDZ, which is one that is read as it is."""
    with path.open("rb") as file:
        begins = file.read(len(ZIP_MAGIC)) == ZIP_MAGIC
    if not begins:
        return False
    try:
        with zipfile.ZipFile(path) as archive:
            names = archive.namelist()
    except _BROKEN:
        return False
    return not (names and PurePosixPath(names[0]).suffix.lower() in (".usda", ".usdc", ".usd"))


def listed(path: Path) -> list[Entry] | None:
    """The assets that a zip lists; None for any other file."""
    if not is_zip(path):
        return None
    try:
        with zipfile.ZipFile(path) as archive:
            if LIST not in archive.namelist() or archive.getinfo(LIST).file_size > _LONGEST_LIST:
                return None
            content = json.loads(archive.read(LIST))
            entries = [Entry(str(e["folder"]), str(e["path"]), str(e["name"])) for e in content["assets"]]
    except (*_BROKEN, KeyError, TypeError):
        return None
    good = all(e.folder.isdigit() and e.path.startswith(f"{e.folder}/") for e in entries)
    return entries if good and entries and len({e.folder for e in entries}) == len(entries) else None


@contextmanager
def unpacked(source: Source, suffixes: tuple[str, ...]) -> Iterator[list[tuple[str, Source]]]:
    """(folder, asset) of those that a zip lists, or the one in it, by the endings of its name, the first that any has.

    Raises AssetError when it cannot be unpacked, is too large, or holds none, or several that it does not list.
    """
    with TemporaryDirectory() as place:
        folder = Path(place)
        try:
            names = _unpack(source, folder)
        except _BROKEN as error:
            if isinstance(error, AssetError):
                raise
            raise source.fail(f"the zip cannot be read ({error})") from error
        yield [
            (entry.folder, _found(source, folder, names, entry, suffixes))
            for entry in listed(source.path) or [Entry("", "", source.name)]
        ]


def _found(source: Source, place: Path, names: list[PurePosixPath], entry: Entry, suffixes: tuple[str, ...]) -> Source:
    """One of the assets that were unpacked into a place. Raises AssetError when it is not there."""
    inside = [name for name in names if not entry.folder or name.parts[0] == entry.folder]
    named = PurePosixPath(entry.path)
    root = _only(source, inside, suffixes) if entry.path in ("", f"{entry.folder}/") else named
    if root not in inside:
        raise source.fail(f"lists {entry.path[:80]!r}, which is not in it")
    return replace(source, path=place / root, folder=place / entry.folder, archived=True, name=entry.name)


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
