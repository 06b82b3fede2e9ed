"""What is to be written to a file of a format: parts where they stand, and what they are made of.

Made by `engine.exporting`, read by the writers. Lengths are metres, +Y is up.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.scene.document import Camera, Material
from lantern.scene.framing import picture_axes
from lantern.scene.lights import LightBase


@dataclass(frozen=True)
class Copies:
    """How the copies of a part lie: (n, 3) places [m], (n, 4) unit quaternions x y z w, (n,) sizes.

    The part's matrix brings it to the origin that they are laid from.
    """

    places: np.ndarray
    turns: np.ndarray
    sizes: np.ndarray


@dataclass(frozen=True)
class Placed:
    """A part where it stands: matrices (k, 4, 4) to the world at moments (k,) [s], or one of a part that rests."""

    name: str
    mesh: int
    material: str
    moments: np.ndarray
    matrices: np.ndarray
    copies: Copies | None = None
    variants: Mapping[tuple[int, int], str] = field(default_factory=dict)
    """Materials by the numbers of the set of variants and of the variant in which they are worn."""


@dataclass
class Written:
    """A file, and what it could not say."""

    data: bytes
    lost: list[str] = field(default_factory=list)


class VariantSet(NamedTuple):
    """Variants of what parts wear: the names of all, and the number of the one that is on."""

    name: str
    variants: tuple[str, ...]
    chosen: int | None


@dataclass(frozen=True)
class Content:
    """What is to be written."""

    name: str
    parts: Sequence[Placed]
    meshes: Sequence[Mesh]
    materials: Mapping[str, Material]
    textures: Sequence[Texture]
    lights: Sequence[LightBase]
    camera: Camera
    aspect: float
    variants: Sequence[VariantSet] = ()


def looking(position: Sequence[float], target: Sequence[float], roll: float = 0.0) -> np.ndarray:
    """(4, 4) of something at a place that looks along its -Z at another, rolled [°] as a camera is."""
    backwards = np.subtract(position, target)
    length = float(np.linalg.norm(backwards))
    backwards = backwards / length if length > 0 else np.array([0.0, 0.0, 1.0])
    matrix = np.eye(4)
    right, up = picture_axes(backwards, roll)
    matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = right, up, backwards, position
    return matrix


def unsaid(material: Material, words: Sequence[tuple[str, str]]) -> list[str]:
    """What of a material a format has no word for: of its fields and what they are called those that are not plain."""
    plain = Material.model_fields
    return [
        f"material {material.name!r}: {word}" for name, word in words if getattr(material, name) != plain[name].default
    ]
