"""How an image of fixed meaning is laid on a surface."""

from pydantic import Field

from lantern.scene.fields import Finite
from lantern.scene.model import FileRef, Model


class TextureUse(Model):
    """An image, the UV set it is laid out by and the affine map from there to it (2x3 rows).

    One of the asset, by its number; or `file`, which repeats beyond its edges.
    """

    texture: int = Field(0, ge=0, lt=1 << 31, title="Texture number in the asset")
    file: FileRef | None = None
    uv_set: int = Field(0, ge=0, le=3, title="UV set")
    matrix: tuple[Finite, Finite, Finite, Finite, Finite, Finite] = (1, 0, 0, 0, 1, 0)
