"""Lights and cameras of a glTF file (glTF 2.0, section 3.10; `KHR_lights_punctual`).

In: a node and where it stands. Out: a light of the document, or a sight. Called by `nodes`.
"""

import math
from typing import Any

import numpy as np

from lantern.assets.imported import Sight
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry
from lantern.color import LUMINANCE
from lantern.scene.lights import DirectionalLight, Light, PointLight, SpotLight

PUNCTUAL = "KHR_lights_punctual"


def lights_of_file(container: Container) -> list[Any]:
    """The file's lights, as it says them."""
    values = (container.document.extensions or {}).get(PUNCTUAL)
    lights = values.get("lights") if isinstance(values, dict) else None
    return lights if isinstance(lights, list) else []


def light_of(
    reader: AccessorReader, lights: list[Any], node: Entry, matrix: np.ndarray, default_name: str
) -> Light | None:
    """The light that hangs on a node with its matrix (4, 4) to the world; None when there is none.

    Raises AssetError for one that does not follow the extension.
    """
    worn = (node.extensions or {}).get(PUNCTUAL)
    if worn is None:
        return None
    try:
        said = lights[worn["light"]]
        name = str(node.name or said.get("name") or default_name)[:200]
        position, ahead = _stands(matrix)
        color = [float(c) for c in said.get("color", (1.0, 1.0, 1.0))]
        common: dict[str, Any] = {
            "name": name,
            "position": tuple(position.tolist()),
            "target": tuple((position + ahead).tolist()),
            # The extension's colour dims; ours does not.
            "amount": min(max(float(said.get("intensity", 1.0)) * float(LUMINANCE @ color), 0.0), 1e9),
            "color": tuple(color),
            "temperature": None,
        }
        return _made(said, common)
    except (KeyError, IndexError, TypeError, ValueError, AttributeError) as error:
        raise reader.fail(f"light {worn!r:.60} does not follow {PUNCTUAL} ({str(error)[:160]})") from error


def _made(said: dict[str, Any], common: dict[str, Any]) -> Light:
    if said["type"] == "directional":
        return DirectionalLight(**common, unit="lx")
    if said["type"] == "point":
        return PointLight(**common, unit="cd")
    if said["type"] != "spot":
        raise ValueError(f"its type is {said['type']!r}")
    cone = said.get("spot", {})
    inner, outer = float(cone.get("innerConeAngle", 0.0)), float(cone.get("outerConeAngle", math.pi / 4))
    degrees = min(max(math.degrees(2 * outer), 0.1), 180.0)
    return SpotLight(**common, unit="cd", cone=degrees, softness=min(max(1 - inner / max(outer, 1e-6), 0.0), 1.0))


def sight_of(reader: AccessorReader, camera: Entry, name: str | None, matrix: np.ndarray) -> Sight | None:
    """What a camera of the file sees from a node with its matrix (4, 4) to the world; None if it is no perspective one.

    Raises AssetError for one that does not follow the standard.
    """
    if camera.perspective is None:
        return None
    try:
        height = float(camera.perspective.yfov)
    except (TypeError, ValueError) as error:
        raise reader.fail(f"camera {name!r} does not follow glTF 2.0 ({error})") from error
    if not 0 < height < math.pi:
        raise reader.fail(f"camera {name!r} sees {height} rad; a perspective camera sees less than π")
    position, ahead = _stands(matrix)
    return Sight(str(name or camera.name or "Camera")[:200], tuple(position.tolist()), tuple(ahead.tolist()), height)


def _stands(matrix: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Place and unit direction of what looks along a node's -Z."""
    ahead = -matrix[:3, 2]
    length = float(np.linalg.norm(ahead))
    return matrix[:3, 3], ahead / length if length > 0 else np.array([0.0, 0.0, -1.0])
