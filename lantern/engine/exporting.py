"""A scene as a file of an open format.

In: a document and its imported asset. Out: the bytes of a GLB, a usdz or a zip with an OBJ, and what it could not say.
Called by the command line and by the server, in a process of its own. What is hidden is left out; parts are written
where they stand, in metres, upright.
"""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from scipy.spatial.transform import Rotation

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.assets.varying import uses_of
from lantern.assets.writers.content import Content, Copies, Placed, VariantSet, Written
from lantern.assets.writers.gltf import write_glb
from lantern.assets.writers.obj import write_obj
from lantern.assets.writers.usd import write_usdz
from lantern.compile.checks import texture_uses
from lantern.compile.dresses import warmed
from lantern.compile.pictures import Pictures
from lantern.compile.stock import Stock
from lantern.compile.strewn import Strewn, foot_of
from lantern.engine.baking import BakedPart, baked_parts
from lantern.engine.own_images import OwnImages, Resolver
from lantern.light.light_row import light_color, luminance_of, spot_flux
from lantern.motion.poses import part_poses
from lantern.scene.document import Material, Part, Scene, Shutter
from lantern.scene.lights import LightBase, ProfileLight, SpotLight, SurfaceLight
from lantern.scene.placing import Places
from lantern.scene.presence import seen
from lantern.scene.variants import Dressing, dressings, tells

Format = Literal["glb", "usdz", "obj"]
ENDINGS: dict[Format, str] = {"glb": ".glb", "usdz": ".usdz", "obj": ".zip"}


def exported(scene: Scene, asset: ImportedAsset, form: Format, resolve: Resolver, bake: int | None = None) -> Written:
    """The file of what can be seen of a scene, with its lights and its camera as far as the format has them.

    `resolve` finds images of one's own. `bake` makes images of patterns, layers and decals, of so many texels along a
    side on the largest part (`baking.SIZES`).
    """
    scene = seen(scene)
    own = OwnImages()
    unread = own.bring(scene, resolve)
    pictures = Pictures(asset.textures)
    pictures.bring(own.texels)
    materials = {key: pictures.resolved(warmed(material)) for key, material in scene.materials.items()}
    places, stock = Places.of(scene), Stock(asset.meshes, scene, asset.textures, final=True)
    numbered = zip(scene.parts.values(), stock.numbers, strict=True)
    moment = Shutter(time=scene.shutter.time)
    placed = [_placed(part, mesh, places, moment if form == "obj" else None) for part, mesh in numbered]
    made = _Baked(scene, asset, own.texels, stock, bake)
    placed = [made.brought(key, one) for key, one in zip(scene.parts, placed, strict=True)]
    carried, lost = _strewn(scene, stock, placed, places)
    told = dressings(scene) if form != "obj" else []
    parts = [
        replace(one, variants=_worn(key, part.material, one.material, told))
        for (key, part), one in zip(scene.parts.items(), carried, strict=True)
        if part.visible
    ]
    enabled = [light for light in scene.lights.values() if light.enabled]
    content = Content(
        scene.asset.name if scene.asset else asset.name,
        parts,
        [*stock.meshes, *made.meshes],
        materials | made.materials(len(pictures.textures)),
        [*pictures.textures, *made.textures],
        [_in_candela(light) if form == "glb" else _in_luminance(light) for light in enabled],
        scene.camera,
        scene.print.width / scene.print.height,
        [VariantSet(one.name, one.variants, one.chosen) for one in told],
    )
    written = {"glb": write_glb, "usdz": write_usdz, "obj": write_obj}[form](content)
    lost += unread + made.lost + _without_words(scene, made.keys, form)
    lost += [f"variants {one.name!r}" for one in scene.variant_groups.values() if form == "obj" or not tells(one)]
    return Written(written.data, [*lost, *dict.fromkeys(written.lost)])


def _worn(key: str, own: str, shown: str, told: Sequence[Dressing]) -> dict[tuple[int, int], str]:
    """What a part wears by the numbers of set and variant; where that is its own, it is what stands in for it."""
    return {
        (number, variant): shown if material == own else material
        for number, one in enumerate(told)
        for variant, material in one.worn.get(key, {}).items()
    }


class _Baked:
    """Images of what parts wear, as meshes, materials and textures behind those of the scene."""

    def __init__(
        self, scene: Scene, asset: ImportedAsset, pictures: Mapping[str, np.ndarray], stock: Stock, size: int | None
    ) -> None:
        self._parts: dict[str, BakedPart] = {}
        self.lost: list[str] = []
        if size is not None:
            meshes = [stock.meshes[number] for number in stock.numbers]
            self._parts, self.lost = baked_parts(scene, asset, pictures, meshes, size)
        self._looks = {one.number: one for one in self._parts.values()}
        self._first = len(stock.meshes)
        self._names = {self._parts[key].number: scene.parts[key].name for key in reversed(self._parts)}

    @property
    def keys(self) -> Collection[str]:
        """Of the parts that images are made of."""
        return self._parts.keys()

    @property
    def meshes(self) -> list[Mesh]:
        return [one.mesh for one in self._looks.values()]

    @property
    def textures(self) -> list[Texture]:
        return [texture for one in self._looks.values() for texture in one.look.textures]

    def brought(self, key: str, part: Placed) -> Placed:
        """A part with the mesh and the material that stand in for its own."""
        if key not in self._parts:
            return part
        number = self._parts[key].number
        return replace(part, mesh=self._first + list(self._looks).index(number), material=_baked_key(number))

    def materials(self, first: int) -> dict[str, Material]:
        """By key; their textures begin at number `first`."""
        found = {}
        for number, one in self._looks.items():
            material, start = one.look.material, first
            changes: dict[str, object] = {
                name: use.model_copy(update={"texture": start + use.texture}) for name, use in texture_uses(material)
            }
            changes["name"] = f"{material.name}, {self._names[number]}"[:200]
            found[_baked_key(number)] = material.model_copy(update=changes)
            first += len(one.look.textures)
        return found


def _baked_key(number: int) -> str:
    return f"baked-{number}"


def _without_words(scene: Scene, baked: Collection[str], form: Format) -> list[str]:
    """What of the visible parts no format has a word for; of some there are images."""
    seen = [part for key, part in scene.parts.items() if part.visible and key not in baked]
    worn = dict.fromkeys(part.material for part in seen)
    dressed = [scene.materials[key] for key in worn]
    said = [uses_of(material) if form == "glb" else {} for material in dressed]
    given = [f"{m.name}: its patterns" for m, known in zip(dressed, said, strict=True) if len(known) < len(m.inputs)]
    given += [f"{material.name}: that it gives so many lumens" for material in dressed if material.emission_lumens]
    given += [f"{material.name}: the layers over it" for material in dressed if material.layers]
    rounded = [f"{part.name}: that its edges are rounded in shading" for part in seen if part.edge_radius is not None]
    worn_by = {part for part, each in scene.parts.items() if each.visible} - set(baked)
    stuck = [decal.name for decal in scene.decals.values() if decal.enabled and worn_by & set(decal.parts)]
    return given + rounded + [f"{name}: a decal" for name in stuck]


def _strewn(scene: Scene, stock: Stock, placed: Sequence[Placed], places: Places) -> tuple[list[Placed], list[str]]:
    """Parts with the copies of those that are strewn, as they lie at the document's moment; what of them is lost."""
    moment = Shutter(time=scene.shutter.time)
    parts = list(scene.parts.values())
    poses = [part_poses(part, moment, places) for part in parts]
    strewn, found, lost = Strewn(stock), list(placed), []
    for number in strewn.poses(scene.model_copy(update={"shutter": moment}), poses):
        copies, pose, one = strewn.lying(number), poses[number][0], found[number]
        assert copies is not None
        matrix = np.eye(4)
        matrix[:3] = pose
        matrix[:3, 3] -= foot_of(stock.meshes[one.mesh], pose)
        quaternions = Rotation.from_matrix(copies.turns).as_quat() if len(copies) else np.zeros((0, 4))
        laid = Copies(copies.places, quaternions, copies.sizes)
        found[number] = replace(one, moments=np.zeros(1), matrices=matrix[None], copies=laid)
        part = parts[number]
        if part.strewn is not None and scene.parts[part.strewn.over].keys:
            lost.append(f"{part.name}: that its copies move with what they lie on")
    return found, lost


def _placed(part: Part, mesh: int, places: Places, moment: Shutter | None) -> Placed:
    """A part with all of its keys, or where it stands at a moment."""
    if moment is not None:
        stood = np.eye(4)
        stood[:3] = part_poses(part, moment, places)[0]
        return Placed(part.name, mesh, part.material, np.zeros(1), stood[None])
    rows = [key.matrix for key in part.keys] or [part.matrix]
    matrices = np.broadcast_to(np.eye(4), (len(rows), 4, 4)).copy()
    matrices[:, :3] = np.array(rows).reshape(-1, 3, 4)
    moments = np.array([key.time for key in part.keys] or [0.0])
    return Placed(part.name, mesh, part.material, moments, places.over(part) @ matrices)


def _in_luminance(light: LightBase) -> LightBase:
    """A light that shines from a surface in cd/m²; another in cd or lx."""
    if isinstance(light, SurfaceLight):
        return light.model_copy(update={"unit": "cd/m²", "amount": luminance_of(light)})
    return _measured(light)


def _in_candela(light: LightBase) -> LightBase:
    """A light of no size in cd, of the colour that its temperature gives it, which dims in glTF; another as it is."""
    color = light_color(light.color, light.temperature)
    brightest = max(float(color.max()), 1e-12)
    shown = {"color": tuple((color / brightest).tolist()), "temperature": None}
    light = _measured(light)
    return light.model_copy(update=shown | {"amount": light.amount * brightest})


def _measured(light: LightBase) -> LightBase:
    if not isinstance(light, ProfileLight) or light.unit == "cd":
        return light
    if light.unit == "lx":
        distance = float(np.linalg.norm(np.subtract(light.position, light.target)))
        return light.model_copy(update={"unit": "cd", "amount": light.amount * distance**2})
    flux = 4 * math.pi
    if isinstance(light, SpotLight):
        outer = math.radians(light.cone / 2)
        flux = spot_flux(math.cos(outer * (1 - light.softness)), math.cos(outer))
    return light.model_copy(update={"unit": "cd", "amount": light.amount / flux})
