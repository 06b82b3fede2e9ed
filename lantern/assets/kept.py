"""What was read of an asset or an image, kept: a project opens again without its files being parsed once more.

In: the SHA-256 of a file, what a reader made of it. Out: the same, its arrays mapped from disk. Called by `reading` and
`pictures`.
Kept in `LANTERN_CACHE` by the file and by the state of everything that reads; the oldest gives way when there is no
room.
"""

import hashlib
import json
import os
import shutil
from collections.abc import Callable, Sequence
from dataclasses import fields, is_dataclass
from functools import cache
from importlib.metadata import version
from pathlib import Path
from tempfile import mkdtemp
from typing import Any

import numpy as np
from pydantic import TypeAdapter, ValidationError

from lantern.assets.cage import Cage, Channel
from lantern.assets.imported import ImportedAsset, Sight
from lantern.assets.mesh import Mesh, MeshShapes
from lantern.assets.textures import Texture
from lantern.kernel.cache import cache_root
from lantern.scene.document import Material, Part
from lantern.scene.editions import VariantGroup
from lantern.scene.lights import Light
from lantern.scene.placed import PartGroup

MOST_BYTES = 24 << 30
"""Of all that is kept."""
LARGEST = 10 << 30
"""Of one asset that is kept: as many images as one may have, unpacked."""
LEAST_FREE = 4
"""Times what an asset takes that must be free on the disk, for it to be kept."""
_INDEX = "asset.json"
_LIBRARIES = ("numpy", "pydantic", "tinyobjloader", "usd-core", "trimesh", "dracopy", "meshopt", "pillow",
              "openimageio", "resvg-py")  # fmt: skip
_KNOWN: dict[str, Callable[..., Any]] = {kind.__name__: kind for kind in (Mesh, MeshShapes, Cage, Channel, Texture)}
_SIGHTS: TypeAdapter[list[Sight]] = TypeAdapter(list[Sight])
_TYPED: dict[str, TypeAdapter[Any]] = {
    "parts": TypeAdapter(dict[str, Part]),
    "groups": TypeAdapter(dict[str, PartGroup]),
    "materials": TypeAdapter(dict[str, Material]),
    "lights": TypeAdapter(dict[str, Light]),
    "variants": TypeAdapter(dict[str, VariantGroup]),
}


@cache
def _readers_digest() -> str:
    """16 hex digits over the sources of whatever has a part in reading, and the libraries that it uses."""
    digest = hashlib.sha256()
    for library in _LIBRARIES:
        digest.update(f"{library} {version(library)}\n".encode())
    root = Path(__file__).resolve().parent.parent
    for room in ("assets", "scene"):
        for source in sorted((root / room).rglob("*.py")):
            digest.update(source.read_bytes())
    return digest.hexdigest()[:16]


def _folder(sha256: str, clip: str | None) -> Path:
    which = "" if clip is None else "-" + hashlib.sha256(clip.encode()).hexdigest()[:16]
    return cache_root() / "assets" / f"{sha256}-{_readers_digest()}{which}"


def recall(sha256: str, clip: str | None = None) -> ImportedAsset | None:
    """What was kept of a file with one of its clips; None when nothing was, or it is damaged."""
    folder = _folder(sha256, clip)
    try:
        index = json.loads((folder / _INDEX).read_text())
        arrays = [np.asarray(np.load(folder / f"{i}.npy", mmap_mode="r")) for i in range(index["arrays"])]
        plain = _decoded(index["plain"], arrays)
        typed = {name: adapter.validate_python(index["typed"][name]) for name, adapter in _TYPED.items()}
        sights = _SIGHTS.validate_python(index["sights"])
        os.utime(folder)
        return ImportedAsset(**plain, **typed, sights=sights)
    except (OSError, ValueError, KeyError, TypeError, ValidationError):
        return None


def keep(sha256: str, asset: ImportedAsset, clip: str | None = None) -> bool:
    """Keep what was read of a file with one of its clips.

    False when it is too large, or cannot be written; that is no error.
    """
    arrays: list[np.ndarray] = []
    places: dict[int, int] = {}
    names = [field.name for field in fields(asset) if field.name not in (*_TYPED, "sights")]
    plain = _encoded({name: getattr(asset, name) for name in names}, arrays, places)
    size = sum(array.nbytes for array in arrays)
    if size > LARGEST or LEAST_FREE * size > _free_bytes():
        return False
    typed = {name: adapter.dump_python(getattr(asset, name), mode="json") for name, adapter in _TYPED.items()}
    index = {"arrays": len(arrays), "plain": plain, "typed": typed, "sights": [list(sight) for sight in asset.sights]}
    return _written(_folder(sha256, clip), index, arrays)


def recall_picture(sha256: str, suffix: str) -> tuple[np.ndarray, list[str]] | None:
    """(texels, what was put right) as they were kept of an image; None when it was not, or it is damaged."""
    folder = _picture_folder(sha256, suffix)
    try:
        repaired = [str(said) for said in json.loads((folder / _INDEX).read_text())["repaired"]]
        texels = np.asarray(np.load(folder / "0.npy", mmap_mode="r"))
        os.utime(folder)
        return texels, repaired
    except (OSError, ValueError, KeyError, TypeError):
        return None


def keep_picture(sha256: str, suffix: str, texels: np.ndarray, repaired: list[str]) -> bool:
    """Keep the texels of an image and what was put right; as `keep`."""
    if LEAST_FREE * texels.nbytes > _free_bytes():
        return False
    return _written(_picture_folder(sha256, suffix), {"repaired": repaired}, [texels])


def _picture_folder(sha256: str, suffix: str) -> Path:
    return cache_root() / "pictures" / f"{sha256}-{_readers_digest()}{suffix}"


def _written(final: Path, index: dict[str, Any], arrays: Sequence[np.ndarray]) -> bool:
    unfinished = None
    try:
        final.parent.mkdir(parents=True, exist_ok=True)
        unfinished = Path(mkdtemp(prefix="partial-", dir=final.parent))
        for number, array in enumerate(arrays):
            np.save(unfinished / f"{number}.npy", array, allow_pickle=False)
        (unfinished / _INDEX).write_text(json.dumps(index))
        unfinished.rename(final)
    except OSError:
        # Another process has kept it, or there is no room: it is read again then.
        if unfinished is not None:
            shutil.rmtree(unfinished, ignore_errors=True)
        return False
    _make_room(final.parent)
    return True


def _free_bytes() -> int:
    place = cache_root()
    while not place.exists():
        place = place.parent
    return shutil.disk_usage(place).free


def _make_room(folder: Path) -> None:
    """Remove what was not used for longest, until the rest is within bounds."""
    kept = []
    for each in folder.iterdir():
        try:
            kept.append((each.stat().st_mtime, sum(file.stat().st_size for file in each.iterdir()), each))
        except OSError:
            continue
    total = 0
    for _, size, each in sorted(kept, reverse=True, key=lambda entry: entry[0]):
        total += size
        if total > MOST_BYTES:
            shutil.rmtree(each, ignore_errors=True)


def _encoded(value: Any, arrays: list[np.ndarray], places: dict[int, int]) -> Any:
    """JSON of a value, in which arrays are numbers; one array that is used twice is one."""
    if isinstance(value, np.ndarray):
        if id(value) not in places:
            places[id(value)] = len(arrays)
            arrays.append(value)
        return {"array": places[id(value)]}
    if is_dataclass(value):
        inner = {field.name: _encoded(getattr(value, field.name), arrays, places) for field in fields(value)}
        return {"kind": type(value).__name__, "fields": inner}
    if isinstance(value, tuple):
        return {"tuple": [_encoded(each, arrays, places) for each in value]}
    if isinstance(value, list):
        return [_encoded(each, arrays, places) for each in value]
    if isinstance(value, dict):
        return {"dict": {key: _encoded(each, arrays, places) for key, each in value.items()}}
    return value


def _decoded(value: Any, arrays: list[np.ndarray]) -> Any:
    if isinstance(value, list):
        return [_decoded(each, arrays) for each in value]
    if not isinstance(value, dict):
        return value
    if "array" in value:
        return arrays[value["array"]]
    if "tuple" in value:
        return tuple(_decoded(each, arrays) for each in value["tuple"])
    if "dict" in value:
        return {key: _decoded(each, arrays) for key, each in value["dict"].items()}
    return _KNOWN[value["kind"]](**{name: _decoded(each, arrays) for name, each in value["fields"].items()})
