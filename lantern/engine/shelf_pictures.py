"""`python -m lantern.engine.shelf_pictures FOLDER [FILE]`: the pictures of swatches that are not there yet.

In: a folder, and a JSON list of swatches besides those of the shelf: each its material, what lies over it, and where
images are that these look up. Out: a JPEG for each, named by what it shows. Called by the server's worker, in a process
of its own.
"""

import hashlib
import json
import sys
from collections.abc import Iterable, Mapping
from functools import cache
from pathlib import Path
from typing import Any

from lantern.engine import swatches
from lantern.engine.swatches import SwatchMaker
from lantern.picture.encode import encode_jpeg
from lantern.scene.document import Material
from lantern.scene.model import FileRef
from lantern.shelf.catalogue import catalogue

Shown = tuple[Material, Mapping[str, Material]]
"""A material, and what lies over it."""
Paths = Mapping[str, str]
"""Where images of one's own are, by the SHA-256 of their files."""


@cache
def _studio() -> bytes:
    """What all pictures depend on besides their materials."""
    return Path(swatches.__file__).read_bytes()


def picture_name(material: Material, over: Mapping[str, Material]) -> str:
    """Name of the file: another material, or another studio, is another picture; names and keys are not seen."""
    digest = hashlib.sha256(_studio())
    places = {key: str(place) for place, key in enumerate(dict.fromkeys(one.material for one in material.layers))}
    layers = tuple(one.model_copy(update={"material": places[one.material]}) for one in material.layers)
    for each in (material.model_copy(update={"layers": layers}), *(over[key] for key in places)):
        digest.update(each.model_dump_json(exclude={"name"}).encode())
    return f"{digest.hexdigest()[:32]}.jpg"


def make_pictures(folder: Path, shown: Iterable[Shown], paths: Paths | None = None) -> int:
    """Make those that are missing; returns how many."""

    def resolve(reference: FileRef) -> Path:
        return Path((paths or {}).get(reference.sha256, reference.name))

    folder.mkdir(parents=True, exist_ok=True)
    missing = {name: each for each in shown if not (folder / (name := picture_name(*each))).is_file()}
    maker = SwatchMaker() if missing else None
    for name, (material, over) in missing.items():
        assert maker is not None
        maker.begin(material, [], over, resolve=resolve)
        picture = maker.step()
        if picture is not None:
            unfinished = folder / f"partial-{name}"
            unfinished.write_bytes(encode_jpeg(picture))
            unfinished.replace(folder / name)
    if maker is not None:
        maker.close()
    return len(missing)


def _read(data: Mapping[str, Any]) -> Shown:
    over = {key: Material.model_validate(each) for key, each in data["over"].items()}
    return Material.model_validate(data["material"]), over


def main(arguments: list[str]) -> None:
    """Make the pictures of the shelf, then those of a file."""
    folder, *files = map(Path, arguments)
    make_pictures(folder, ((each.material, each.over) for each in catalogue().values()))
    for file in files:
        for each in json.loads(file.read_text()):
            make_pictures(folder, [_read(each)], each.get("paths"))


if __name__ == "__main__":
    main(sys.argv[1:])
