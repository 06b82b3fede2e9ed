"""Images of a scene as kernels know them: those of the asset, then lettering and files of one's own as they come.

In: textures of the asset, decoded images by the SHA-256 of their files. Out: numbers of rows of `IMAGE`. Called by
`compiled` and the writers of operations. A new image is a new row, and copies nothing.
"""

from collections.abc import Container, Hashable, Mapping, Sequence

import numpy as np

from lantern.assets.lettering import lettering
from lantern.assets.textures import CLAMP, MIRROR, REPEAT, Texture
from lantern.compile.checks import texture_uses
from lantern.compile.image_rows import image_rows
from lantern.compile.nearness import NearGrids
from lantern.scene.decals import Content, PictureContent
from lantern.scene.document import Material
from lantern.scene.sources import FileSource, PictureSource
from lantern.scene.texture_use import TextureUse

_NOTHING = Texture(np.zeros((1, 1, 4), np.uint8), CLAMP, CLAMP)
_WRAPS = {"repeat": REPEAT, "clamp": CLAMP, "mirror": MIRROR}


class Pictures:
    """The images of a scene by number; numbers stay what they are."""

    def __init__(self, textures: Sequence[Texture] = ()) -> None:
        self._textures = list(textures)
        self._numbers: dict[Hashable, int] = {}
        self._files: dict[str, np.ndarray] = {}
        self.near = NearGrids()
        """What is looked up by place and not by coordinates."""
        self._rows: np.ndarray | None = None

    def bring(self, files: Mapping[str, np.ndarray]) -> None:
        """Take decoded images by the SHA-256 of their files; others of them are forgotten, but for their numbers."""
        self._files = dict(files)

    @property
    def rows(self) -> np.ndarray:
        """(n, IMAGE.width) uint64, as `image_rows` makes them."""
        if self._rows is None:
            self._rows = image_rows(self._textures)
        return self._rows

    @property
    def textures(self) -> Sequence[Texture]:
        """All of them, by number."""
        return self._textures

    def keep(self, used: Container[int]) -> None:
        """Forget the texels of all that is not used, but for those of the asset; the numbers of the others stay."""
        for key, number in list(self._numbers.items()):
            if number not in used:
                del self._numbers[key]
                self._textures[number] = _NOTHING
                self._rows = None

    def texels(self, number: int) -> np.ndarray:
        """(h, w, channels) of an image."""
        return self._textures[number].texels

    def of_source(self, source: FileSource) -> int | None:
        """The number of the image of an input; None where it cannot be had."""
        if source.file is None:
            return None
        if isinstance(source, PictureSource):
            return self._of_file(source.file.sha256, _WRAPS[source.wrap], nearest=source.nearest)
        return self._of_file(source.file.sha256, CLAMP)

    def of_content(self, content: Content) -> int | None:
        """The number of what is on a decal; None where it cannot be had."""
        if isinstance(content, PictureContent):
            return None if content.file is None else self._of_file(content.file.sha256, CLAMP)
        known = self._numbers.get(content)
        return self._added(content, lettering(content)) if known is None else known

    def resolved(self, material: Material) -> Material:
        """A material whose maps are all by number; one whose file cannot be had is left out."""
        changes: dict[str, TextureUse | None] = {}
        for name, use in texture_uses(material):
            if use.file is not None:
                number = self._of_file(use.file.sha256, REPEAT)
                changes[name] = None if number is None else use.model_copy(update={"texture": number, "file": None})
        return material.model_copy(update=changes) if changes else material

    def _of_file(self, sha256: str, wrap: int, *, nearest: bool = False) -> int | None:
        key = sha256, wrap, nearest
        if key in self._numbers:
            return self._numbers[key]
        texels = self._files.get(sha256)
        return None if texels is None else self._added(key, Texture(texels, wrap, wrap, nearest))

    def _added(self, key: Hashable, texture: Texture) -> int:
        self._textures.append(texture)
        self._rows = None
        self._numbers[key] = len(self._textures) - 1
        return self._numbers[key]
