"""Parts cut apart where nothing connects them, and put together as one.

In: an engine with a document open, keys of parts. Out: patches, under which everything stays where it stands. Called by
the render host.
"""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from lantern.engine.engine import Engine
from lantern.scene.document import MeshPiece, Part, Scene
from lantern.scene.grouping import Patch
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.placing import Places, affine
from lantern.shaping.pieces import components


def split(engine: Engine, keys: Sequence[str]) -> Made | None:
    """The patch that makes parts of the pieces of parts: of those that were merged, else of what is connected.

    Empty when all is of one piece; None when nothing is there that could be split.
    """
    scene, asset = engine.scene, engine.asset
    found = [key for key in keys if key in scene.parts and scene.parts[key].form is None]
    if not found or asset is None:
        return None
    patch: Patch = []
    taken, became = set(scene.parts), dict[str, list[str]]()
    for key in found:
        part = scene.parts[key]
        pieces = [(piece,) for piece in part.pieces] if len(part.pieces) > 1 else []
        if not part.pieces:
            count = len(np.unique(components(asset.meshes[part.mesh])))
            pieces = [(MeshPiece(mesh=part.mesh, component=number),) for number in range(count)]
        if len(pieces) < 2:
            continue
        became[key] = []
        for number, own in enumerate(pieces, 1):
            fresh, _ = free_key(taken, key)
            taken.add(fresh)
            became[key].append(fresh)
            changes = {"name": f"{part.name[:190]} {number}", "pieces": own, "mesh": own[0].mesh}
            patch.append(_added(fresh, part.model_copy(update=changes)))
    label = f"Split {scene.parts[found[0]].name}" if len(found) == 1 else f"Split {len(found)} parts"
    first = next(iter(became.values()), [""])[0]
    return Made(first, label, [*patch, *_replaced(scene, became)])


def merged(engine: Engine, keys: Sequence[str]) -> Made | None:
    """The patch that makes one part of several, of the material and in the place of the first.

    What moves, is strewn or is made here stays out; None when less than two parts are left.
    """
    scene = engine.scene
    found = [key for key in keys if key in scene.parts and _is_still(engine, scene.parts[key])]
    if len(found) < 2:
        return None
    places, first = Places.of(scene), scene.parts[found[0]]
    back = np.linalg.pinv(_pose(places, first))
    pieces: list[MeshPiece] = []
    for key in found:
        part = scene.parts[key]
        over = back @ _pose(places, part)
        for piece in part.pieces or (MeshPiece(mesh=part.mesh),):
            matrix = over @ affine(piece.matrix)
            pieces.append(piece.model_copy(update={"matrix": tuple(matrix[:3].ravel().tolist())}))
    fresh, _ = free_key(scene.parts, found[0])
    part = first.model_copy(update={"pieces": tuple(pieces)})
    became = {key: [fresh] for key in found}
    return Made(fresh, f"Merge {len(found)} parts", [_added(fresh, part), *_replaced(scene, became)])


def _is_still(engine: Engine, part: Part) -> bool:
    meshes = engine.asset.meshes if engine.asset else []
    deforms = part.mesh < len(meshes) and meshes[part.mesh].shapes is not None
    return part.form is None and part.strewn is None and not part.keys and not deforms


def _pose(places: Places, part: Part) -> np.ndarray:
    return np.asarray(places.over(part) @ affine(part.matrix))


def _added(key: str, part: Part) -> dict[str, Any]:
    return {"op": "add", "path": f"/parts/{key}", "value": part.model_dump(mode="json")}


def _replaced(scene: Scene, became: Mapping[str, Sequence[str]]) -> Patch:
    """Others take the place of parts, also in sets and in what lights leave out."""
    patch: Patch = [{"op": "remove", "path": f"/parts/{key}"} for key in became]

    def others(keys: Sequence[str]) -> list[str]:
        return list(dict.fromkeys(other for key in keys for other in became.get(key, [key])))

    for section, name, entries in (("part_sets", "parts", scene.part_sets), ("lights", "unlit_parts", scene.lights)):
        for key, entry in entries.items():
            now = list(getattr(entry, name))
            if others(now) != now:
                patch.append({"op": "replace", "path": f"/{section}/{key}/{name}", "value": others(now)})
    for key, part in scene.parts.items():
        if part.strewn is not None and part.strewn.over in became and key not in became:
            patch.append({"op": "replace", "path": f"/parts/{key}/strewn/over", "value": became[part.strewn.over][0]})
    return patch
