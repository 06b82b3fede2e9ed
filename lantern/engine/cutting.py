"""Parts cut apart where nothing connects them, and put together as one.

In: an engine with a document open, keys of parts. Out: patches, under which everything stays where it stands. Called by
the render host.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from lantern.engine.engine import Engine
from lantern.scene.decal_places import in_other_space
from lantern.scene.decals import MOST_PARTS, Decal
from lantern.scene.document import Material, MeshPiece, Part, Scene
from lantern.scene.grouping import Patch
from lantern.scene.inputs import MaterialInput
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.placing import Places, affine
from lantern.scene.sources import DistanceSource
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
    cut = {step["path"].rpartition("/")[2]: Part.model_validate(step["value"]) for step in patch}
    lying = _on_pieces(engine, became, cut)
    return Made(first, label, [*patch, *_replaced(scene, became), *lying])


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
    lying = _on_the_whole(scene, found, fresh)
    return Made(fresh, f"Merge {len(found)} parts", [_added(fresh, part), *_replaced(scene, became), *lying])


def _on_the_whole(scene: Scene, found: Sequence[str], fresh: str) -> Patch:
    """Decals of parts that were put together in the space of the first."""
    patch: Patch = []
    places, first = Places.of(scene), scene.parts[found[0]]
    for key, decal in scene.decals.items():
        parts = tuple(dict.fromkeys(fresh if part in found else part for part in decal.parts))
        if parts == decal.parts:
            continue
        carrier = scene.parts[decal.parts[0]] if decal.parts[0] in found else None
        if carrier is not None:
            across = np.linalg.pinv(_pose(places, first)) @ _pose(places, carrier)
            decal = in_other_space(decal, across, places.unit(carrier), places.unit(first))
        patch.append(_changed(key, decal.model_copy(update={"parts": parts})))
    return patch


def _on_pieces(engine: Engine, became: Mapping[str, Sequence[str]], cut: Mapping[str, Part]) -> Patch:
    """Decals of parts that were cut apart on those of the pieces which they reach, all in the space of the whole."""
    scene, places = engine.scene, Places.of(engine.scene)
    lying = {key: decal for key, decal in scene.decals.items() if any(part in became for part in decal.parts)}
    boxes = {fresh: _box(engine, places, cut[fresh]) for keys in became.values() for fresh in keys} if lying else {}
    patch: Patch = []
    for key, decal in lying.items():
        middle, reach = _ball_around(engine, places, decal)
        near = {fresh for fresh, box in boxes.items() if float(np.linalg.norm(middle - middle.clip(*box))) <= reach}
        parts = [
            fresh
            for part in decal.parts
            for fresh in ([f for f in became[part] if f in near] or became[part][:1] if part in became else [part])
        ]
        patch.append(_changed(key, decal.model_copy(update={"parts": tuple(parts[:MOST_PARTS])})))
    return patch


def _box(engine: Engine, places: Places, part: Part) -> np.ndarray:
    """(2, 3) lowest and highest corner [m] of a part of one piece."""
    assert engine.asset is not None
    (piece,) = part.pieces
    mesh = engine.asset.meshes[piece.mesh]
    used = mesh.indices if piece.component is None else mesh.indices[components(mesh) == piece.component]
    matrix = _pose(places, part) @ affine(piece.matrix)
    points = mesh.positions[used.ravel()] @ matrix[:3, :3].T + matrix[:3, 3]
    return np.stack([points.min(axis=0), points.max(axis=0)])


def _ball_around(engine: Engine, places: Places, decal: Decal) -> tuple[np.ndarray, float]:
    """Middle and radius [m] of a ball that a decal does not leave."""
    carrier = next((engine.scene.parts[part] for part in decal.parts if part in engine.scene.parts), None)
    assert carrier is not None
    pose, unit = _pose(places, carrier), places.unit(carrier)
    middle = pose[:3, :3] @ (np.array(decal.middle) / unit) + pose[:3, 3]
    tall = (engine.compiled.shape_of(decal.content) or 1.0) * decal.stretch
    grown = abs(float(np.linalg.det(pose[:3, :3]))) ** (1 / 3) / unit
    return middle, grown * math.hypot(decal.width / 2, decal.width * tall / 2, decal.depth)


def _changed(key: str, decal: Decal) -> dict[str, Any]:
    return {"op": "replace", "path": f"/decals/{key}", "value": decal.model_dump(mode="json")}


def _is_still(engine: Engine, part: Part) -> bool:
    meshes = engine.asset.meshes if engine.asset else []
    deforms = part.mesh < len(meshes) and meshes[part.mesh].shapes is not None
    return part.form is None and part.strewn is None and not part.keys and not deforms


def _pose(places: Places, part: Part) -> np.ndarray:
    return np.asarray(places.over(part) @ affine(part.matrix))


def _added(key: str, part: Part) -> dict[str, Any]:
    return {"op": "add", "path": f"/parts/{key}", "value": part.model_dump(mode="json")}


def _replaced(scene: Scene, became: Mapping[str, Sequence[str]]) -> Patch:
    """Others take the place of parts, also in sets, in what lights leave out, in masks that ask how far they are."""
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
    for key, material in scene.materials.items():
        for path, one in _inputs_of(material):
            asked = one.source.part if isinstance(one.source, DistanceSource) else None
            if asked is not None and asked in became:
                place = f"/materials/{key}/{path}/source/part"
                patch.append({"op": "replace", "path": place, "value": became[asked][0]})
    return patch


def _inputs_of(material: Material) -> Iterable[tuple[str, MaterialInput]]:
    """Inputs of a material and of its layers, by where they lie in it."""
    yield from ((f"inputs/{name}", one) for name, one in material.inputs.items())
    for number, layer in enumerate(material.layers):
        for name, one in (("mask", layer.mask), ("breakup", layer.breakup)):
            if one is not None:
                yield f"layers/{number}/{name}", one
