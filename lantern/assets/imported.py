"""What every reader of an asset's format makes: neutral, ready to be put into a document and compiled.

In: what a reader finds in a file. Out: an `ImportedAsset`. Made by the readers, used by whoever compiles or shows what
was brought in.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.scene.document import Material, Part
from lantern.scene.editions import VariantGroup
from lantern.scene.lights import Light
from lantern.scene.placed import PartGroup
from lantern.scene.turning import Axis

DEFAULT = Material(name="Default", specular_roughness=0.5)
"""Of surfaces whose file says nothing of what they are made of."""
Progress = Callable[[str, float], None]
"""Hears what is being done and the share [0, 1] that is done."""


class Sight(NamedTuple):
    """How a camera of a file looks: from where [m], in which direction (unit), how high a field [rad]."""

    name: str
    position: tuple[float, float, float]
    ahead: tuple[float, float, float]
    height: float


@dataclass
class ImportedAsset:
    """What a file holds, ready to be put into a scene document and compiled.

    Parts stand in the file's own space, of which one unit is `scale` metres and the axis `up` is upright: what a format
    says, or what is taken for one that says nothing. `clips` are the names of its motions; keys and shapes are of one.
    """

    name: str
    format: str
    meshes: list[Mesh] = field(default_factory=list)
    parts: dict[str, Part] = field(default_factory=dict)
    materials: dict[str, Material] = field(default_factory=dict)
    textures: list[Texture] = field(default_factory=list)
    lights: dict[str, Light] = field(default_factory=dict)
    sights: list[Sight] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)
    scale: float = 1.0
    up: Axis = "+y"
    groups: dict[str, PartGroup] = field(default_factory=dict)
    clips: list[str] = field(default_factory=list)
    variants: dict[str, VariantGroup] = field(default_factory=dict)

    @property
    def triangles(self) -> int:
        """Triangles of all parts, instances counted each time."""
        return sum(self.meshes[part.mesh].triangles for part in self.parts.values())
