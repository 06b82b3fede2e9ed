"""The document of a project that begins with an asset.

In: an imported asset, the box around it, perhaps a set-up. Out: a `Scene`: the asset stands on the ground, seen as its
file or the set-up sees it, or from three-quarters. Called by the command line and by the server's reading.
"""

import math
from collections.abc import Mapping

import numpy as np

from lantern.assets.imported import ImportedAsset, Sight
from lantern.assets.keys import unique_key
from lantern.scene.document import Asset, Camera, Material, Part, Scene
from lantern.scene.fields import FAR, Box
from lantern.scene.framing import fit_camera
from lantern.scene.lights import Light
from lantern.scene.model import FileRef
from lantern.scene.placed import PartGroup
from lantern.scene.placing import REST, stand_of
from lantern.scene.starts import fitted


def begun(
    asset: ImportedAsset,
    file: FileRef,
    low: np.ndarray,
    high: np.ndarray,
    *,
    setup: Scene | None = None,
    around: Box | None = None,
    shape: tuple[int, int] | None = None,
) -> Scene:
    """The document; `low` and `high` are corners of the box around the asset [m], `around` of what the set-up was for.

    `shape` is that of the picture, if not as the set-up prints. The file's own lights are switched off beside those of
    a set-up.
    """
    scene = fitted(setup or Scene(), around, (low.tolist(), high.tolist()))
    width, height = shape or (scene.print.width, scene.print.height)
    aspect = width / height
    if asset.sights and setup is None:
        camera = seen_by(scene.camera, asset.sights[0], low, high, aspect)
    else:
        camera = fit_camera(scene.camera, low, high, aspect, keep_direction=setup is not None)
    lights: dict[str, Light] = dict(scene.lights)
    for light in asset.lights.values():
        lights[unique_key(light.name, lights)] = light.model_copy(update={"enabled": not scene.lights})
    own = pivoted(asset, stand_of(asset))
    parts, materials = _with_set(own, asset.materials, scene)
    came = {
        "asset": Asset(file=file, name=asset.name, scale=asset.scale, up=asset.up),
        "parts": parts,
        "part_groups": pivoted_groups(asset.groups, own),
        "materials": materials,
        "variant_groups": {**scene.variant_groups, **asset.variants},
        "lights": lights,
        "camera": camera,
    }
    return scene.model_copy(update=came)


def _with_set(
    parts: dict[str, Part], materials: dict[str, Material], setup: Scene
) -> tuple[dict[str, Part], dict[str, Material]]:
    """Parts and materials of an asset, and behind them the pieces of a set-up with theirs."""
    parts, materials, worn = dict(parts), dict(materials), {}
    for key, material in setup.materials.items():
        worn[key] = unique_key(key, materials)
        materials[worn[key]] = material
    for key, part in setup.parts.items():
        parts[unique_key(key, parts)] = part.model_copy(update={"material": worn[part.material]})
    return parts, materials


def pivoted_groups(groups: Mapping[str, PartGroup], parts: Mapping[str, Part]) -> dict[str, PartGroup]:
    """Groups, each of which is turned about the middle of the pivots of its parts."""
    inside: dict[str, list[tuple[float, float, float]]] = {key: [] for key in groups}
    for part in parts.values():
        key = part.group
        while key is not None and key in groups:
            inside[key].append(part.pivot)
            key = groups[key].group
    found = {}
    for key, group in groups.items():
        points = np.array(inside[key] or [(0.0, 0.0, 0.0)])
        middle = (points.min(axis=0) + points.max(axis=0)) / 2
        found[key] = group.model_copy(update={"pivot": tuple(float(f"{v:.6g}") for v in middle)})
    return found


def pivoted(asset: ImportedAsset, stand: np.ndarray = REST) -> dict[str, Part]:
    """The parts, each of which is turned about the middle of the box around its mesh, where an asset stands (4, 4)."""
    middles = [(mesh.positions.min(0).astype(np.float64) + mesh.positions.max(0)) / 2 for mesh in asset.meshes]
    found = {}
    for key, part in asset.parts.items():
        rows = np.array(part.keys[0].matrix if part.keys else part.matrix).reshape(3, 4)
        middle = stand[:3, :3] @ (rows[:, :3] @ middles[part.mesh] + rows[:, 3])
        pivot = np.clip(middle, -FAR, FAR)
        found[key] = part.model_copy(update={"pivot": tuple(float(f"{v:.6g}") for v in pivot)})
    return found


def seen_by(camera: Camera, sight: Sight, low: np.ndarray, high: np.ndarray, aspect: float) -> Camera:
    """The camera of a file, focused at the asset's middle, or as far as the asset is large when that lies behind."""
    position, ahead = np.clip(sight.position, -FAR, FAR), np.array(sight.ahead)
    size = max(float(np.linalg.norm(high - low)), 1e-3)
    depth = float(((low + high) / 2 - position) @ ahead)
    distance = depth if depth > size / 1000 else size
    focal = camera.sensor_width / aspect / (2 * math.tan(sight.height / 2))
    return camera.model_copy(
        update={
            "position": tuple(position.tolist()),
            "target": tuple(np.clip(position + ahead * distance, -FAR, FAR).tolist()),
            "focal_length": round(min(max(focal, 4.0), 2000.0), 3),
            "roll": 0.0,
            "focus_on": None,
            "focus_distance": round(min(max(distance, 0.001), 1e6), 6),
        }
    )
