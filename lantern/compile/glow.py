"""How brightly the triangles of a glowing material shine.

In: a material, a mesh, the textures of an asset. Out: luminance by triangle. Called by `light_rows`, which aims light
by it, and `dresses`, which measures it.
"""

from collections.abc import Sequence

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.color import LUMINANCE, decode_srgb
from lantern.compile.operations import lifted
from lantern.pattern.images import folded
from lantern.scene.document import Material
from lantern.scene.texture_use import TextureUse

_LEAST_SHARE = 0.02
"""A triangle is never taken to be darker than this share of its part's brightest: its texture is only sampled."""


def emission_luminance(material: Material, mesh: Mesh, textures: Sequence[Texture]) -> np.ndarray:
    """Mean luminance [cd/m²] of each triangle of a mesh, its emission texture taken at four points.

    What coat, fuzz and holes take away is left out: it decides how often light is aimed there, not how much comes.
    """
    flat = float(np.array(material.emission_color) @ LUMINANCE) * lifted(material).emission_luminance
    use = material.emission_texture
    if use is None or mesh.uvs is None or use.uv_set >= len(mesh.uvs):
        return np.full(len(mesh.indices), flat)
    corners = mesh.uvs[use.uv_set][mesh.indices]
    points = [corners.mean(axis=1)]
    points += [0.6 * corners[:, i] + 0.2 * corners[:, (i + 1) % 3] + 0.2 * corners[:, (i + 2) % 3] for i in range(3)]
    lit = flat * np.mean([_texture_luminance(textures[use.texture], use, p) for p in points], axis=0)
    return np.maximum(lit, _LEAST_SHARE * float(lit.max(initial=0.0)))


def _texture_luminance(texture: Texture, use: TextureUse, uv: np.ndarray) -> np.ndarray:
    """(n,) relative luminance of the texels at coordinates (n, 2)."""
    a, b, c, d, e, f = use.matrix
    height, width, channels = texture.texels.shape
    u, v = a * uv[:, 0] + b * uv[:, 1] + c, d * uv[:, 0] + e * uv[:, 1] + f
    x = (folded(u, texture.wrap_u) * width).astype(int).clip(0, width - 1)
    y = (folded(v, texture.wrap_v) * height).astype(int).clip(0, height - 1)
    stored = texture.texels[y, x]
    whole = np.iinfo(stored.dtype).max if stored.dtype.kind == "u" else 1
    linear = decode_srgb(stored / whole)
    return np.asarray(linear[:, :3] @ LUMINANCE if channels >= 3 else linear[:, 0])


def glows(material: Material) -> bool:
    """Whether a material sends out light of its own."""
    amount = material.emission_lumens
    return (lifted(material).emission_luminance if amount is None else amount) > 0 and max(material.emission_color) > 0
