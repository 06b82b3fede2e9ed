"""A scene as a file of an open format.

In: a document and its imported asset. Out: the bytes of a GLB, and what it could not say. Called by the command line.
What is hidden is left out; parts are written where they stand, in metres, upright.
"""

import math

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.writers.gltf import Content, Placed, Written, write_glb
from lantern.compile.stock import Stock
from lantern.light.light_row import light_color, spot_flux
from lantern.motion.placing import placement_of
from lantern.scene.document import Part, Scene
from lantern.scene.lights import LightBase, ProfileLight, SpotLight
from lantern.scene.standing import stand_of


def export_glb(scene: Scene, asset: ImportedAsset) -> Written:
    """The GLB of what can be seen of a scene, with its lights and its camera."""
    stand = stand_of(scene.asset)
    width, height = scene.print.width, scene.print.height
    lights = [_in_candela(light) for light in scene.lights.values() if light.enabled]
    stock = Stock(asset.meshes, scene, asset.textures, final=True)
    numbered = zip(scene.parts.values(), stock.numbers, strict=True)
    parts = [_placed(part, mesh, stand) for part, mesh in numbered if part.visible]
    name = scene.asset.name if scene.asset else asset.name
    return write_glb(
        Content(name, parts, stock.meshes, scene.materials, asset.textures, lights, scene.camera, width / height)
    )


def _placed(part: Part, mesh: int, stand: np.ndarray) -> Placed:
    rows = [key.matrix for key in part.keys] or [part.matrix]
    matrices = np.broadcast_to(np.eye(4), (len(rows), 4, 4)).copy()
    matrices[:, :3] = np.array(rows).reshape(-1, 3, 4)
    moments = np.array([key.time for key in part.keys] or [0.0])
    return Placed(part.name, mesh, part.material, moments, placement_of(part, stand) @ matrices)


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
