"""OpenUSD import: usd, usda, usdc and usdz (the OpenUSD Core Specification; the schemas UsdGeom, UsdShade, UsdLux).

In: a source. Out: an `ImportedAsset`, in metres, Y up. Called by `reading`. Layers, payloads and references of the file
are composed by the library; of variant sets the chosen one is read.
"""

import re
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

from pxr import Usd

from lantern.assets.archive import ZIP_MAGIC, unpacked
from lantern.assets.errors import AssetError
from lantern.assets.imported import ImportedAsset, Progress
from lantern.assets.readers.usd.moving import bake_skeletons
from lantern.assets.readers.usd.stage import StageReader
from lantern.assets.source import Source

_BINARY, _TEXT = b"PXR-USDC", b"#usda"
_NAME_LENGTH, _NAME = slice(26, 28), 30
"""Where a zip's first entry says how long its name is, and its name (APPNOTE 4.3.7)."""
_QUOTED = re.compile(r" : '(.+?)'?$")
"""What the library says, after where in itself it says it."""
LAYERS = (".usdc", ".usda", ".usd")


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as a layer, or is a zip whose first file is one (usdz)."""
    if head.startswith((_BINARY, _TEXT)):
        return True
    if not head.startswith(ZIP_MAGIC):
        return False
    length = int.from_bytes(head[_NAME_LENGTH], "little")
    return head[_NAME : _NAME + length].lower().endswith(tuple(ending.encode() for ending in LAYERS))


def read(source: Source, progress: Progress) -> ImportedAsset:
    """Everything that the stage shows. Raises AssetError when it cannot be opened or reaches outside its own files."""
    asset = ImportedAsset(Path(source.name).stem[:200] or "asset", "OpenUSD")
    with _opened(source) as layer:
        progress("Opening the stage", 0.1)
        try:
            stage = Usd.Stage.Open(str(layer.path))
            _check_layers(layer, stage)
            bake_skeletons(stage)
            StageReader(layer, stage, asset, progress).read()
        except (AssetError, MemoryError):
            raise
        except Exception as error:  # the library raises whatever the damage provokes
            said = _last_line(error).replace(str(layer.path), source.name)
            raise source.fail(f"is a damaged USD ({said})") from error
    return asset


@contextmanager
def _opened(source: Source) -> Iterator[Source]:
    """The source as a file whose ending says what it holds, which the library goes by."""
    with source.path.open("rb") as file:
        head = file.read(len(_BINARY))
    if head.startswith(ZIP_MAGIC):
        with unpacked(source, LAYERS) as found:
            yield found[0][1]
        return
    ending = ".usdc" if head.startswith(_BINARY) else ".usda"
    if source.path.suffix.lower() in (ending, ".usd"):
        yield source
        return
    with TemporaryDirectory() as folder:
        path = Path(folder) / f"asset{ending}"
        shutil.copyfile(source.path, path)
        yield replace(source, path=path)


def _check_layers(source: Source, stage: Usd.Stage) -> None:
    """Raises AssetError when a layer of the stage is none of the file's own."""
    for layer in stage.GetUsedLayers():
        if layer.anonymous or not layer.realPath:
            continue
        path = Path(layer.realPath).resolve()
        own = path == source.path.resolve() or (
            source.folder is not None and path.is_relative_to(source.folder.resolve())
        )
        if not own:
            raise source.fail(f"refers to {path.name!r}, which is outside its own files")


def _last_line(error: Exception) -> str:
    """What an error says; one that quotes bytes that are no text says its kind alone."""
    try:
        lines = [line.strip() for line in str(error).splitlines() if line.strip()]
    except UnicodeDecodeError:
        lines = []
    said = _QUOTED.search(lines[-1]) if lines else None
    return (said[1] if said else lines[-1] if lines else type(error).__name__)[:160]
