"""What parts wear: materials as they are, and those that one part alone wears, for it has decals on it or is to give
so much light.

In: a document, where its parts stand, their meshes. Out: `Dress`es by number, the materials that they show. Called by
`compiled`, `geometry` and `light_rows`. Bare materials come first, in the order of the document, so that most parts
share their rows.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.compile.glow import emission_luminance, glows
from lantern.compile.pictures import Pictures
from lantern.compile.sticking import PlacedDecal, placed
from lantern.compile.stock import Stock
from lantern.light.light_row import blackbody
from lantern.motion.poses import part_poses
from lantern.scene.decals import MOST_DECALS, Decal
from lantern.scene.document import Material, Part, Scene
from lantern.scene.layers import Layer
from lantern.scene.placing import Places

BRIGHTEST = 1e9
"""cd/m² of a part that is to give much light and is hardly there."""


class Dress(NamedTuple):
    """A material, worn by whoever wears it, or by one part with its decals, the lowest first."""

    material: str
    part: str | None = None
    decals: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class Stuck:
    """A decal, where the part stands that carries it, and where the one stands that it lies on."""

    decal: Decal
    carrier: np.ndarray  # (3, 4)
    unit: float  # m, of the space of the one that carries it, before that is sized by hand
    pose: np.ndarray

    def placed(self, pictures: Pictures) -> PlacedDecal | None:
        """With its image and its frame; None where it cannot be had."""
        return placed(self.decal, pictures, self.carrier, self.unit, self.pose)

    def differs(self, before: "Stuck") -> bool:
        """Whether it lies otherwise than before: two parts that move together change nothing."""
        if self.decal is not before.decal and self.decal != before.decal:
            return True
        if self.unit != before.unit:
            return True
        is_there = self.carrier is before.carrier and self.pose is before.pose
        return not is_there and not (
            np.array_equal(self.carrier, before.carrier) and np.array_equal(self.pose, before.pose)
        )


@dataclass(frozen=True, eq=False)
class Worn:
    """What a dress shows: its material, the layers over that, the decals over those."""

    material: Material
    over: Sequence[tuple[Layer, Material]]
    decals: Sequence[Stuck] = ()

    def differs(self, before: "Worn") -> bool:
        """Whether it shows otherwise than before."""
        if self.material is not before.material and self.material != before.material:
            return True
        if len(self.over) != len(before.over) or len(self.decals) != len(before.decals):
            return True
        pairs = zip(self.over, before.over, strict=True)
        if any(a is not c or (b is not d and b != d) for (a, b), (c, d) in pairs):
            return True
        return any(a.differs(b) for a, b in zip(self.decals, before.decals, strict=True))


def decals_on(scene: Scene) -> dict[str, tuple[str, ...]]:
    """Keys of the decals that show on each part that has some."""
    found: dict[str, tuple[str, ...]] = {}
    for key, decal in sorted(scene.decals.items(), key=lambda item: (item[1].order, item[0])):
        for part in dict.fromkeys(decal.parts) if decal.enabled else ():
            if part in scene.parts:
                found[part] = (*found.get(part, ()), key)
    return {part: keys[-MOST_DECALS:] for part, keys in found.items()}


def dresses(scene: Scene) -> dict[Dress, int]:
    """Every dress by its number."""
    found = [Dress(key) for key in scene.materials]
    covered = decals_on(scene)
    measured = {key for key, material in scene.materials.items() if material.emission_lumens is not None}
    if covered or measured:
        for key, part in scene.parts.items():
            if key in covered or part.material in measured:
                found.append(Dress(part.material, key, covered.get(key, ())))
    return {dress: number for number, dress in enumerate(found)}


def numbers_worn(keys: Iterable[str], parts: Iterable[Part], worn: Mapping[Dress, int]) -> list[int]:
    """The number of what each of some parts wears."""
    own = {dress.part: number for dress, number in worn.items() if dress.part is not None}
    bare = {dress.material: number for dress, number in worn.items() if dress.part is None}
    return [own.get(key, bare[part.material]) for key, part in zip(keys, parts, strict=True)]


def warmed(material: Material) -> Material:
    """A material whose temperature is in the colour of its light."""
    if material.emission_temperature is None:
        return material
    light = np.array(material.emission_color) * blackbody(material.emission_temperature)
    return material.model_copy(update={"emission_color": tuple(light.tolist()), "emission_temperature": None})


class Shining:
    """Materials as parts wear them: as bright as gives the light that each part is to give."""

    def __init__(self, pictures: Pictures) -> None:
        self._pictures = pictures
        self._known: dict[str, tuple[Mesh, bytes, Material, Material]] = {}
        """By part: its mesh, how it stands, what it was given, and what came of that."""

    def of_part(self, scene: Scene, key: str, number: int, stock: Stock, places: Places) -> Material:
        """The material of a part."""
        part = scene.parts[key]
        material = scene.materials[part.material]
        if material.emission_lumens is None:
            return self._pictures.resolved(warmed(material))
        mesh, pose = stock.meshes[stock.numbers[number]], part_poses(part, scene.shutter, places)[0]
        known = self._known.get(key)
        if known is None or known[0] is not mesh or known[1] != pose.tobytes() or known[2] is not material:
            measured = self._measured(self._pictures.resolved(warmed(material)), mesh, pose)
            known = self._known[key] = mesh, pose.tobytes(), material, measured
        return known[3]

    def _measured(self, material: Material, mesh: Mesh, pose: np.ndarray) -> Material:
        """OpenPBR glows alike in all directions: flux is π times luminance times area (CIE S 017)."""
        bright = material.model_copy(update={"emission_luminance": 1.0, "emission_lumens": None})
        if not glows(bright):
            return bright
        world = mesh.positions.astype(np.float64) @ pose[:, :3].T
        a, b, c = (world[mesh.indices[:, corner]] for corner in range(3))
        areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        sides = 2 if material.double_sided or material.geometry_thin_walled else 1
        flux = np.pi * sides * float(np.sum(areas * emission_luminance(bright, mesh, self._pictures.textures)))
        lumens = material.emission_lumens or 0.0
        luminance = min(lumens / flux, BRIGHTEST) if flux > 0 else 0.0
        return bright.model_copy(update={"emission_luminance": luminance})
