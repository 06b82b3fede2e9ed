"""Displacement: the points of a fine surface moved by an image, or by a pattern along the normal.

In: a surface, an image or the heights of a pattern, how far. Out: a mesh, its normals those of the moved surface.
Called by `density`.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.pattern.images import folded
from lantern.scene.inputs import MaterialInput
from lantern.scene.texture_use import TextureUse
from lantern.shaping.nets import gathered
from lantern.shaping.surface import Surface


@dataclass(frozen=True)
class Relief:
    """How far an image, or a pattern in its place, moves a surface; lengths in the mesh's own space."""

    texture: TextureUse | None
    height: float  # from black to white
    middle: float  # the value that stays where it is
    along: Literal["normal", "vector"]
    pattern: MaterialInput | None = None
    metres: float = 1.0  # of a unit of that space, for the pattern


class Heights(Protocol):
    """Says how high a pattern stands at places and normals (n, 3), with coordinates (n, 2) by set, a unit in metres."""

    def __call__(
        self, one: MaterialInput, places: np.ndarray, normals: np.ndarray, uvs: Sequence[np.ndarray], metres: float
    ) -> np.ndarray: ...


@dataclass(frozen=True, eq=False)
class Moves:
    """How an image moves the points of a surface, whatever the height: by it times (values - middle × whole)."""

    values: np.ndarray  # (p, 3)
    whole: np.ndarray  # (p, 3)


def moves_by_pattern(surface: Surface, relief: Relief, heights: Heights) -> Moves:
    """What a pattern does to a surface: it lies on what that is before, and moves it along its normals."""
    assert relief.pattern is not None
    places, normals = surface.points[surface.point], surface.own_normals[surface.group]
    uvs = [] if surface.uvs is None else list(surface.uvs)
    values = heights(relief.pattern, places, normals, uvs, relief.metres)
    return _along_normals(surface, _by_point(surface, values[:, None]))


def moves_of(surface: Surface, relief: Relief, texture: Texture) -> Moves | None:
    """What an image does to a surface; None for one without texture coordinates.

    Along the normal, red says how far; as a vector, red, green and blue say how far along X, Y and Z of the mesh.
    """
    if relief.texture is None or surface.uvs is None or relief.texture.uv_set >= len(surface.uvs):
        return None
    values = sampled(texture, relief.texture, surface.uvs[relief.texture.uv_set])
    mean = _by_point(surface, values)
    return Moves(mean, np.ones_like(mean)) if relief.along == "vector" else _along_normals(surface, mean[:, :1])


def _by_point(surface: Surface, values: np.ndarray) -> np.ndarray:
    """(p, c) of values (n, c) at vertices. Points along a seam take the mean: the surface stays whole."""
    count = np.bincount(surface.point, minlength=len(surface.points))[:, None]
    return np.asarray(gathered(surface.point, values, len(surface.points)) / np.maximum(count, 1))


def _along_normals(surface: Surface, values: np.ndarray) -> Moves:
    summed = gathered(surface.point, surface.own_normals[surface.group], len(surface.points))
    normals = summed / np.maximum(np.linalg.norm(summed, axis=1, keepdims=True), 1e-30)
    return Moves(normals * values, normals)


def displaced(surface: Surface, relief: Relief, moves: Moves) -> Mesh:
    """The mesh of a surface whose points an image has moved."""
    return surface.mesh(surface.points + relief.height * (moves.values - relief.middle * moves.whole))


def sampled(texture: Texture, use: TextureUse, uv: np.ndarray) -> np.ndarray:
    """(n, 3) stored values in [0, 1], as they are, at coordinates (n, 2): bilinear between texels.

    Of one or two channels the first is all three.
    """
    a, b, c, d, e, f = use.matrix
    u = a * uv[:, 0] + b * uv[:, 1] + c
    v = d * uv[:, 0] + e * uv[:, 1] + f
    height, width, channels = texture.texels.shape
    left, x, to_right = _between(u, width, texture.wrap_u)
    top, y, to_bottom = _between(v, height, texture.wrap_v)
    chosen = [0, 1, 2] if channels >= 3 else [0, 0, 0]
    texels = texture.texels[..., chosen]
    whole = float(np.iinfo(texels.dtype).max) if texels.dtype.kind == "u" else 1.0
    upper = texels[top, left] * (1 - to_right) + texels[top, x] * to_right
    lower = texels[y, left] * (1 - to_right) + texels[y, x] * to_right
    return np.asarray((upper * (1 - to_bottom) + lower * to_bottom) / whole)


def _between(coordinate: np.ndarray, size: int, wrap: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """((n,) texel before, (n,) texel after, (n, 1) share of the second) of a coordinate along one axis."""
    place = coordinate.astype(np.float64) * size - 0.5
    before = np.floor(place)
    first, second = (
        (folded((texel + 0.5) / size, wrap) * size).astype(np.int64).clip(0, size - 1) for texel in (before, before + 1)
    )
    return first, second, (place - before)[:, None]
