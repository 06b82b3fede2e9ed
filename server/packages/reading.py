"""A package as a foreign file: everything in it is looked at before any of it is taken over.

In: a zip. Out: its index of today's version, its cover, and its files laid into a folder by their digests. Called by
the process with limits that reads uploads; knows no Django. Raises PackageError, or what the reader of a file raises.
"""

import hashlib
import io
import json
import zipfile
import zlib
from pathlib import Path
from typing import IO, Any

from PIL import Image, UnidentifiedImageError
from pydantic import ValidationError

from lantern.assets.pictures import PICTURES, read_picture
from lantern.assets.reading import import_asset
from lantern.light.profiles import read_profile
from lantern.picture.files import read_hdr
from lantern.scene.document import SCHEMA_VERSION
from lantern.scene.editing import apply_patch, files_in
from lantern.scene.history import Step as Operations
from lantern.scene.history import migrated_history
from lantern.scene.model import FileRef
from lantern.scene.reading import SceneError, read_scene, version_of
from server.packages.contents import COVER, FILES, FORMAT, INDEX, VERSION, Index, Step

LARGEST_INDEX = 512 << 20
LARGEST_COVER, WIDEST_COVER = 1 << 20, 1024
MOST_STEPS = 1000
PIECE = 1 << 20


class PackageError(ValueError):
    """A package cannot be used; the message says why."""


def is_package(path: Path) -> bool:
    """Whether a file is a zip with an index of ours."""
    try:
        with zipfile.ZipFile(path) as package, package.open(INDEX) as index:
            return FORMAT.encode() in index.read(4096)
    except (zipfile.BadZipFile, KeyError, OSError, RuntimeError, zlib.error):
        return False


def read_package(path: Path, name: str, limit: int, folder: Path) -> tuple[Index, bytes | None, list[str]]:
    """(index, cover, digests of the files now in `folder`); files of more than `limit` bytes in all are refused."""
    try:
        with zipfile.ZipFile(path) as package:
            index = _index(package, name)
            problems = list(index.problems)
            index = _of_today(index, problems)
            wanted = _wanted(index)
            _unpack(package, name, wanted, limit, folder)
            cover = _cover(package)
    except (zipfile.BadZipFile, zlib.error, RuntimeError, EOFError) as error:
        raise PackageError(f"{name}: the zip is damaged ({error})") from error
    for reference in wanted.values():
        _look_at(folder / reference.sha256, reference.name, limit)
    return index.model_copy(update={"problems": problems}), cover, list(wanted)


def _index(package: zipfile.ZipFile, name: str) -> Index:
    content = _limited(package, INDEX, LARGEST_INDEX, name)
    try:
        data = json.loads(content)
        if isinstance(data, dict) and isinstance(data.get("version"), int) and data["version"] > VERSION:
            raise PackageError(f"{name}: was written by a later version of this program; bring this one up to date")
        return Index.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = "/".join(str(step) for step in first["loc"])
        raise PackageError(f"{name}: {INDEX}, {place}: {first['msg']}") from error
    except (ValueError, RecursionError) as error:
        if isinstance(error, PackageError):
            raise
        raise PackageError(f"{name}: {INDEX} is not JSON ({error})") from error


def _of_today(index: Index, problems: list[str]) -> Index:
    """The index with document and steps of today's version; steps that do not fit the document are left out."""
    numbers = [step.number for step in index.steps]
    steps: dict[int, Operations] = {step.number: (step.patch, step.inverse) for step in index.steps}
    labels = {step.number: step.label for step in index.steps}
    if version_of(index.scene) != SCHEMA_VERSION:
        history = migrated_history(index.scene, steps, index.cursor)
        scene, steps = history.scene, history.steps
    else:
        scene = read_scene(index.scene).plain()
        in_a_row = numbers == list(range(numbers[0], numbers[0] + len(numbers))) if numbers else True
        reaches = not numbers or numbers[0] - 1 <= index.cursor <= numbers[-1]
        if not (in_a_row and reaches and len(numbers) <= MOST_STEPS and _fit(scene, steps, index.cursor)):
            problems.append("The steps of undo in the package do not fit its document: they are left out.")
            steps = {}
    kept = [Step(number=n, patch=p, inverse=i, label=labels[n]) for n, (p, i) in sorted(steps.items())]
    return index.model_copy(update={"scene": scene, "steps": kept, "cursor": index.cursor if kept else 0})


def _fit(scene: dict[str, Any], steps: dict[int, Operations], cursor: int) -> bool:
    """Whether every step can be undone from the document, and redone."""
    try:
        document = scene
        for number in range(cursor, min(steps, default=cursor + 1) - 1, -1):
            document, _ = apply_patch(document, steps[number][1])
        document = scene
        for number in range(cursor + 1, max(steps, default=cursor) + 1):
            document, _ = apply_patch(document, steps[number][0])
    except SceneError:
        return False
    return True


def _wanted(index: Index) -> dict[str, FileRef]:
    """The files that document and steps name, by digest."""
    everything = [index.scene, *([step.patch, step.inverse] for step in index.steps)]
    return {file.sha256: file for file in files_in(everything)}


def _unpack(package: zipfile.ZipFile, name: str, wanted: dict[str, FileRef], limit: int, folder: Path) -> None:
    there = set(package.namelist())
    left = limit
    for digest, reference in wanted.items():
        if f"{FILES}{digest}" not in there:
            raise PackageError(f"{name}: the file {reference.name} is missing in it")
        with package.open(f"{FILES}{digest}") as source, (folder / digest).open("wb") as target:
            found, size = _copied(source, target, left)
        left -= size
        if left < 0:
            raise PackageError(f"{name}: holds more than {limit / 1e6:.0f} MB of files")
        if found != digest:
            raise PackageError(f"{name}: the file {reference.name} is damaged (its digest is another)")


def _copied(source: IO[bytes], target: IO[bytes], most: int) -> tuple[str, int]:
    """(digest, bytes) of what was copied; it ends one piece beyond `most`."""
    digest, size = hashlib.sha256(), 0
    while size <= most and (piece := source.read(PIECE)):
        digest.update(piece)
        target.write(piece)
        size += len(piece)
    return digest.hexdigest(), size


def _limited(package: zipfile.ZipFile, entry: str, most: int, name: str) -> bytes:
    with package.open(entry) as source:
        content = source.read(most + 1)
    if len(content) > most:
        raise PackageError(f"{name}: {entry} has more than {most / 1e6:.0f} MB")
    return content


def _cover(package: zipfile.ZipFile) -> bytes | None:
    """The cover made anew from its pixels, or None when there is none that can be shown."""
    if COVER not in package.namelist():
        return None
    with package.open(COVER) as source:
        content = source.read(LARGEST_COVER)
    try:
        with Image.open(io.BytesIO(content), formats=("JPEG",)) as image:
            if max(image.size) > WIDEST_COVER:
                return None
            image.load()
            return content
    except (UnidentifiedImageError, OSError, ValueError):
        return None


def _look_at(path: Path, name: str, limit: int) -> None:
    """Read a file as what its name says it is, so that none is kept that nobody can open."""
    kind = Path(name).suffix.lower()
    if kind in (".hdr", ".exr"):
        read_hdr(path, name)
    elif kind in PICTURES:
        read_picture(path, name)
    elif kind == ".ies":
        read_profile(path.read_text(encoding="latin-1"), name)
    else:
        # An asset is known by what it holds, whatever it is called.
        import_asset(path, limit, name)
