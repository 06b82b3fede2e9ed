"""The images of one's own that a document looks up, decoded.

In: a document, and what finds its files. Out: texels by the SHA-256 of their files, what was wrong. Called by the
engine, and by what writes materials and models.
"""

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

import numpy as np

from lantern.assets.pictures import PictureError, read_picture
from lantern.compile.changes import touched
from lantern.compile.checks import texture_uses
from lantern.scene.decals import Decal, PictureContent
from lantern.scene.document import Material, Scene
from lantern.scene.inputs import picture_of
from lantern.scene.model import FileRef

Resolver = Callable[[FileRef], Path]


def no_files(reference: FileRef) -> Path:
    """The resolver of a scene that has no files. Raises FileNotFoundError."""
    raise FileNotFoundError(f"{reference.name} is not a file of this scene")


def picture_files(scene: Scene) -> dict[str, FileRef]:
    """The images of one's own that a document looks up, by the SHA-256 of their files."""
    return _files_of(scene.materials.values(), scene.decals.values())


def _files_of(materials: Iterable[Material], decals: Iterable[Decal]) -> dict[str, FileRef]:
    found: dict[str, FileRef] = {}
    for material in materials:
        maps = (use.file for _, use in texture_uses(material))
        found |= {file.sha256: file for file in maps if file is not None}
        if material.inputs or material.layers:
            inputs = (*material.inputs.values(), *(one for layer in material.layers for one in layer.inputs()))
            found |= {file.sha256: file for one in inputs if (file := picture_of(one)) is not None}
    contents = [decal.content for decal in decals]
    return found | {c.file.sha256: c.file for c in contents if isinstance(c, PictureContent) and c.file is not None}


class OwnImages:
    """Those of one document after the other: what stays is not decoded again."""

    def __init__(self) -> None:
        self.texels: dict[str, np.ndarray] = {}
        """(h, w, 1 to 4) by the SHA-256 of the file."""
        self._unread: set[str] = set()

    def know(self, texels: Mapping[str, np.ndarray]) -> None:
        """Take what somebody else has decoded."""
        self.texels.update(texels)

    def follow(self, before: Scene, scene: Scene, resolve: Resolver) -> list[str]:
        """As `bring`, after an edit: where neither document looks any up, only what it has touched is looked at."""
        if not self.texels and not self._unread:
            changed = [new for _, _, _, new in touched(before.materials, scene.materials)]
            if not _files_of(changed, scene.decals.values()):
                return []
        return self.bring(scene, resolve)

    def bring(self, scene: Scene, resolve: Resolver) -> list[str]:
        """Bring them to those of a document; returns what was wrong with new ones, which the rest is shown without."""
        wanted = picture_files(scene)
        self.texels = {sha256: texels for sha256, texels in self.texels.items() if sha256 in wanted}
        self._unread &= wanted.keys()
        problems: list[str] = []
        for sha256, reference in wanted.items():
            if sha256 in self.texels or sha256 in self._unread:
                continue
            try:
                self.texels[sha256], repaired = read_picture(resolve(reference), reference.name, sha256)
                problems += repaired
            except (PictureError, OSError) as error:
                self._unread.add(sha256)
                problems.append(f"{error}; what it belongs to is shown without it")
        return problems
