"""Reading an asset of any format: by what the file holds, not by what it is called.

In: a path, the limit of its size, the name it has for people. Out: an `ImportedAsset`. Called by the engine when it
compiles, by the server when a file is brought in, and by the command line.
"""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from lantern.assets import gltf, ply, stl
from lantern.assets.errors import AssetError
from lantern.assets.imported import ImportedAsset, Progress
from lantern.assets.source import DEFAULT_LIMIT, Source

_HEAD = 512
"""Bytes by which a format is recognised."""


class Reader(NamedTuple):
    """A format: whether the first bytes of a file and its size are of it, and how it is read."""

    recognises: Callable[[bytes, int], bool]
    read: Callable[[Source, Progress], ImportedAsset]


READERS: dict[str, Reader] = {
    "PLY": Reader(ply.recognises, ply.read),
    "glTF": Reader(gltf.recognises, gltf.read),
    "STL": Reader(stl.recognises, stl.read),
}
"""By the name of the format, in the order in which they are tried."""


def _no_progress(what: str, share: float) -> None:
    """For callers that do not watch."""


def import_asset(
    path: Path, limit: int = DEFAULT_LIMIT, name: str | None = None, progress: Progress = _no_progress
) -> ImportedAsset:
    """Read a file whole. `name` is what messages call it when it is stored under another one.

    Raises AssetError for anything that makes the file unusable; lesser faults are listed in `problems`.
    """
    source = Source(path, name or path.name, limit, name is not None)
    if not path.is_file():
        raise AssetError(source.name, "there is no such file")
    size = path.stat().st_size
    if size > limit:
        raise AssetError(source.name, f"is {size / 1e6:.1f} MB; the limit is {limit / 1e6:.1f} MB")
    with path.open("rb") as file:
        head = file.read(_HEAD)
    reader = next((each for each in READERS.values() if each.recognises(head, size)), None)
    if reader is None:
        raise AssetError(source.name, "is neither a GLB, a glTF, a zip of a glTF, a PLY nor an STL")
    progress("Opening", 0.0)
    asset = reader.read(source, progress)
    if asset.triangles == 0:
        raise AssetError(source.name, "holds no triangles")
    progress("Done", 1.0)
    return asset
