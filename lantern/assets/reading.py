"""Reading an asset of any format: by what the file holds, not by what it is called.

In: a path, the limit of its size, the name it has for people. Out: an `ImportedAsset`. Called by the engine when it
compiles, by the server when a file is brought in, and by the command line.
"""

import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from lantern.assets.archive import ZIP_MAGIC, unpacked
from lantern.assets.imported import ImportedAsset, Progress
from lantern.assets.joining import joined
from lantern.assets.kept import keep, recall
from lantern.assets.readers import ply, stl
from lantern.assets.readers.gltf import asset as gltf
from lantern.assets.readers.obj import asset as obj
from lantern.assets.readers.usd import asset as usd
from lantern.assets.source import DEFAULT_LIMIT, Source

LONG_SECONDS = 0.5
"""Reading that takes longer is worth keeping."""
_HEAD = 512
"""Bytes by which a format is recognised."""


class Reader(NamedTuple):
    """A format: whether the first bytes of a file and its size are of it, and how it is read."""

    recognises: Callable[[bytes, int], bool]
    read: Callable[[Source, Progress], ImportedAsset]


_ENDINGS = (".gltf", ".glb", *usd.LAYERS, ".usdz", ".obj", ".ply", ".stl")
"""Of the asset in a zip, the first that any file has."""
READERS: dict[str, Reader] = {
    "OpenUSD": Reader(usd.recognises, usd.read),
    "PLY": Reader(ply.recognises, ply.read),
    "glTF": Reader(gltf.recognises, gltf.read),
    "STL": Reader(stl.recognises, stl.read),
    "OBJ": Reader(obj.recognises, obj.read),
}
"""By the name of the format, in the order in which they are tried."""


def _no_progress(what: str, share: float) -> None:
    """For callers that do not watch."""


def import_asset(
    path: Path,
    limit: int = DEFAULT_LIMIT,
    name: str | None = None,
    progress: Progress = _no_progress,
    *,
    sha256: str | None = None,
    clip: str | None = None,
) -> ImportedAsset:
    """Read a file whole. `name` is what messages call it when it is stored under another one; `clip` names its motion.

    With its `sha256` what was read of the same content before is taken, and what takes long is kept for the next time.
    Raises AssetError for anything that makes the file unusable; lesser faults are listed in `problems`.
    """
    source = Source(path, name or path.name, limit, path.parent if name is None else None, clip=clip)
    if not path.is_file():
        raise source.fail("there is no such file")
    size = path.stat().st_size
    if size > limit:
        raise source.fail(f"is {size / 1e6:.1f} MB; the limit is {limit / 1e6:.1f} MB")
    progress("Opening", 0.0)
    if sha256 is not None and (known := recall(sha256, clip)) is not None:
        progress("Done", 1.0)
        return known
    begun = time.monotonic()
    reader = _reader_of(path)
    if reader is None and _head(path).startswith(ZIP_MAGIC):
        with unpacked(source, _ENDINGS) as found:
            read = [(folder, inner.name, _read(inner, _reader_of(inner.path), progress)) for folder, inner in found]
        asset = joined(read) if len(read) > 1 else read[0][2]
    else:
        asset = _read(source, reader, progress)
    if sha256 is not None and time.monotonic() - begun > LONG_SECONDS:
        keep(sha256, asset, clip)
    progress("Done", 1.0)
    return asset


def _head(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(_HEAD)


def _reader_of(path: Path) -> Reader | None:
    head, size = _head(path), path.stat().st_size
    return next((each for each in READERS.values() if each.recognises(head, size)), None)


def _read(source: Source, reader: Reader | None, progress: Progress) -> ImportedAsset:
    if reader is None:
        raise source.fail(f"is neither {', '.join(READERS)}, nor a zip of one of them")
    asset = reader.read(source, progress)
    if asset.triangles == 0:
        raise source.fail("holds no triangles")
    return asset
