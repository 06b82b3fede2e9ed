"""How an image of the asset is laid on a surface."""

from pydantic import Field

from lantern.scene.fields import Finite
from lantern.scene.model import Model


class TextureUse(Model):
    """A texture inside the asset file, the UV set it is laid out by and the affine map from there to it (2x3 rows)."""

    texture: int = Field(ge=0, lt=1 << 31, title="Texture number in the asset")
    uv_set: int = Field(0, ge=0, le=3, title="UV set")
    matrix: tuple[Finite, Finite, Finite, Finite, Finite, Finite] = (1, 0, 0, 0, 1, 0)
