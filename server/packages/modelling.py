"""`python -m server.packages.modelling`: write a model, a material or the map of a document, and print a JSON object.

What is wanted comes as JSON (`Wanted`). In a process of its own with limits of memory and time, as reading is: an asset
may be large, and subdivided. It knows no Django and no database.
"""

import json
import resource
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from lantern.assets.errors import AssetError
from lantern.assets.imported import ImportedAsset
from lantern.assets.materialx.writing import write_material
from lantern.assets.reading import import_asset
from lantern.engine.exporting import Format, exported
from lantern.engine.unrolled import write_environment
from lantern.picture.files import ImageError
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene

Form = Format | Literal["mtlx", "exr"]
MEMORY_LIMIT = 12 << 30
"""Bytes of address space: libraries that are only loaded count too."""


@dataclass(frozen=True)
class Wanted:
    """A document, where its files lie, by their SHA-256, and which file of it is to lie where."""

    scene: dict[str, Any]
    paths: dict[str, str]
    form: Form
    target: str
    material: str | None = None
    """Of a file of materials, which it is of."""
    bake: int | None = None
    """Texels along a side of the images that are made of patterns."""


def write(wanted: Wanted) -> list[str]:
    """Write the file; returns what it could not say. Raises AssetError and ImageError."""
    scene = read_scene(wanted.scene)
    if wanted.form == "exr":
        written = Path(f"{wanted.target}.exr")
        lost = write_environment(scene, lambda reference: Path(wanted.paths[reference.sha256]), written)
        written.replace(wanted.target)
        return lost
    asset = ImportedAsset("Set", "none")
    if scene.asset is not None:
        file = scene.asset.file
        asset = import_asset(Path(wanted.paths[file.sha256]), name=file.name, sha256=file.sha256, clip=scene.asset.clip)

    def resolve(reference: FileRef) -> Path:
        return Path(wanted.paths[reference.sha256])

    if wanted.form == "mtlx":
        assert wanted.material is not None
        written = write_material(scene.materials[wanted.material], scene.materials, asset.textures, resolve)
    else:
        written = exported(scene, asset, wanted.form, resolve, wanted.bake)
    Path(wanted.target).write_bytes(written.data)
    return written.lost


def main() -> int:
    """Entry point of the process."""
    wanted = Wanted(**json.load(sys.stdin))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        print(json.dumps({"lost": write(wanted)}))
    except (AssetError, ImageError) as error:
        print(json.dumps({"error": str(error)}))
    except MemoryError:
        print(json.dumps({"error": "the model needs more memory than writing it may take"}))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
