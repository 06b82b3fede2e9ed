"""The meshes that the parts of a document are shown as: those of its asset, and those that are made here.

In: the meshes of an asset, a document. Out: one list of meshes and the number of each part's. Called by `compiled`.
What was made is kept while some part is shown as it.
"""

from collections.abc import Sequence

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.motion.bounds import mesh_boxes
from lantern.scene.document import Part, Scene
from lantern.shaping.forms import form_mesh


def shape_of(part: Part) -> object:
    """Everything that the mesh of a part depends on: equal for parts that share one."""
    return part.mesh if part.form is None else part.form


class Stock:
    """The asset's meshes, followed by the others."""

    def __init__(self, meshes: Sequence[Mesh], scene: Scene) -> None:
        self._own, self._own_boxes = list(meshes), mesh_boxes(meshes)
        self._made: dict[object, Mesh] = {}
        self.meshes: list[Mesh] = []
        self.boxes: list[np.ndarray] = []
        """(8, 3) corners of the box around each mesh [m]."""
        self.numbers: list[int] = []
        """The mesh of each part, in the order of the document."""
        self.bring(scene)

    def bring(self, scene: Scene) -> None:
        """Bring meshes and numbers to another document of the same asset."""
        numbers: dict[object, int] = {}
        made: dict[object, Mesh] = {}
        for part in scene.parts.values():
            shape = shape_of(part)
            if shape in numbers:
                continue
            if part.form is None:
                numbers[shape] = part.mesh
            else:
                numbers[shape] = len(self._own) + len(made)
                made[shape] = self._made.get(shape) or form_mesh(part.form)
        self._made, self.meshes = made, [*self._own, *made.values()]
        self.boxes = [*self._own_boxes, *mesh_boxes(list(made.values()))]
        self.numbers = [numbers[shape_of(part)] for part in scene.parts.values()]


def same_shapes(before: Scene, after: Scene) -> bool:
    """Whether two documents have the same parts, of the same shapes."""
    return list(before.parts) == list(after.parts) and all(
        part is before.parts[key] or shape_of(part) == shape_of(before.parts[key]) for key, part in after.parts.items()
    )
