"""The rows of all that parts wear, kept in step with the document and with where parts stand.

In: a document, geometry, meshes. Out: the tables that materials are looked up in. Called by `compiled`. An edit writes
the rows of what shows otherwise than before, and no others.
"""

from collections.abc import Container, Iterable, Mapping, Sequence

import numpy as np

from lantern.assets.textures import Texture
from lantern.compile.changes import touched
from lantern.compile.dresses import Dress, Shining, Stuck, Worn, dresses, warmed
from lantern.compile.geometry import Geometry
from lantern.compile.material_rows import MaterialRows
from lantern.compile.pictures import Pictures
from lantern.compile.stock import Stock
from lantern.scene.document import Scene
from lantern.scene.layers import MOST_LAYERS
from lantern.scene.placing import Places


class Wearing:
    """What parts wear, by number, and its rows."""

    rows: MaterialRows

    def __init__(self, scene: Scene, textures: Sequence[Texture], files: Mapping[str, np.ndarray]) -> None:
        """`files` are images of one's own by the SHA-256 of their files."""
        self.pictures = Pictures(textures)
        self.pictures.bring(files)
        self.shining = Shining(self.pictures)
        self.worn = dresses(scene)
        self.written = 0
        """Rows that were written so far."""

    def renumber(self, before: Scene, scene: Scene) -> bool:
        """Bring the numbers to a document; whether any is another than before."""
        if len(self.worn) == len(before.materials) and not scene.decals and _are_as_bare(before, scene):
            return False
        worn = dresses(scene)
        is_other = list(worn) != list(self.worn)
        self.worn = worn
        return is_other

    def write(self, scene: Scene, geometry: Geometry, stock: Stock) -> None:
        """Write all rows."""
        self._bring_near(scene, geometry, stock)
        self.rows = MaterialRows([MOST_LAYERS + len(dress.decals) for dress in self.worn], self.pictures)
        self._shown: dict[Dress, Worn] = {}
        self._dress(scene, geometry, stock, self.worn)

    def follow(self, before: Scene, scene: Scene, geometry: Geometry, stock: Stock) -> None:
        """Bring rows to the document that an edit may have changed: those that parts wear alone depend on much."""
        self._bring_near(scene, geometry, stock)
        changed = {key for _, key, _, _ in touched(before.materials, scene.materials)}
        if changed or len(self.worn) > len(scene.materials):
            asked = [dress for dress in self.worn if dress.part or _is_of(scene, dress, changed)]
            self._dress(scene, geometry, stock, asked)

    def _bring_near(self, scene: Scene, geometry: Geometry, stock: Stock) -> None:
        """Bring the grids that masks look up to where parts stand."""
        meshes = [stock.meshes[number] for number in stock.numbers]
        self.pictures.near.bring(scene, meshes, [poses[0] for poses in geometry.poses], geometry.keys)

    def _dress(self, scene: Scene, geometry: Geometry, stock: Stock, asked: Iterable[Dress]) -> None:
        """Bring the rows of those dresses to the document that show otherwise than they did."""
        written = self.written
        for dress in asked:
            worn, before = self._worn_as(scene, geometry, stock, dress), self._shown.get(dress)
            if before is None or worn.differs(before):
                decals = [one for decal in worn.decals if (one := decal.placed(self.pictures)) is not None]
                self.rows.write(self.worn[dress], worn.material, worn.over, decals)
                self._shown[dress] = worn
                self.written += 1
        if self.written > written:
            self.pictures.keep(self.rows.images)

    def _worn_as(self, scene: Scene, geometry: Geometry, stock: Stock, dress: Dress) -> Worn:
        """What a dress shows."""
        material, resolved = scene.materials[dress.material], self.pictures.resolved
        over = [(layer, resolved(scene.materials[layer.material])) for layer in material.layers if layer.enabled]
        if dress.part is None:
            return Worn(resolved(warmed(material)), over)
        number, places = geometry.numbers[dress.part], Places.of(scene)
        material = self.shining.of_part(scene, dress.part, number, stock, places)
        decals = []
        for key in dress.decals:
            decal = scene.decals[key]
            carrier = next(part for part in decal.parts if part in scene.parts)
            pose, unit = geometry.poses[geometry.numbers[carrier]][0], places.unit(scene.parts[carrier])
            decals.append(Stuck(decal, pose, unit, geometry.poses[number][0]))
        return Worn(material, over, decals)


def _are_as_bare(before: Scene, scene: Scene) -> bool:
    """Whether the same materials are worn by all alike: none has begun to give lumens."""
    if len(before.materials) != len(scene.materials) or list(before.materials) != list(scene.materials):
        return False
    return all(new.emission_lumens is None for _, _, _, new in touched(before.materials, scene.materials))


def _is_of(scene: Scene, dress: Dress, changed: Container[str]) -> bool:
    """Whether a dress shows one of some materials."""
    layers = scene.materials[dress.material].layers
    return dress.material in changed or any(layer.material in changed for layer in layers)
