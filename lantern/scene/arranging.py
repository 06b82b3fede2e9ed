"""What is done with parts as wholes: copied, mirrored, dropped, aligned, taken away, sorted into sets.

In: the document, an operation, the boxes around its parts. Out: the patch that does it and what it is called. Called by
the render host, which knows where the parts are.
"""

import math
import re
from collections.abc import Mapping, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from lantern.scene.document import Part, PartSet, Scene
from lantern.scene.fields import FAR, Vector
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.model import Key, Model
from lantern.scene.patching import difference
from lantern.scene.staging import Piece, staged
from lantern.scene.standing import rescaled, turned_up
from lantern.scene.starts import Box
from lantern.scene.turning import Axis, mirror_matrix, turn_matrix, turns_of

MOST_COPIES = 1000
Parts = Annotated[tuple[Key, ...], Field(min_length=1, max_length=200_000)]
_AXES = "xyz"


class Duplicate(Model):
    """Copies in a row, each moved and turned from the one before. Its own materials, or those of the original."""

    kind: Literal["duplicate"]
    parts: Parts
    count: Annotated[int, Field(ge=1, le=MOST_COPIES)] = 1
    step: Vector
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    own_materials: bool = False


class Move(Model):
    """Moves, turns about the vertical and sizes parts as one, about the middle of what they stand on."""

    kind: Literal["move"]
    parts: Parts
    offset: Vector = (0.0, 0.0, 0.0)
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    size: Annotated[float, Field(ge=0.001, le=1000)] = 1.0


class Mirror(Model):
    """Mirrors parts along an axis about their common middle."""

    kind: Literal["mirror"]
    parts: Parts
    axis: Literal["x", "y", "z"]


class Drop(Model):
    """Lets parts down as one until they stand on the ground, or lifts them."""

    kind: Literal["drop"]
    parts: Parts


class Align(Model):
    """Brings an edge or the middle of each part to that of all of them, along an axis."""

    kind: Literal["align"]
    parts: Parts
    axis: Literal["x", "y", "z"]
    to: Literal["low", "middle", "high"]


class Centre(Model):
    """Brings the middle of what parts stand on to the middle of the scene, as one."""

    kind: Literal["centre"]
    parts: Parts


class Build(Model):
    """Adds a piece of a set, of a size and at a place that suit the asset."""

    kind: Literal["build"]
    piece: Piece


class Remove(Model):
    """Takes parts away."""

    kind: Literal["remove"]
    parts: Parts


class Sort(Model):
    """Makes sets of all parts, by what they have in common."""

    kind: Literal["sort"]
    by: Literal["material", "name", "size"]


class Stand(Model):
    """Puts right how long one of the units of the asset's file is [m], or which of its axes is up."""

    kind: Literal["stand"]
    scale: Annotated[float, Field(ge=1e-6, le=1e6, allow_inf_nan=False)] | None = None
    up: Axis | None = None


Operation = Annotated[
    Duplicate | Move | Mirror | Drop | Align | Centre | Remove | Sort | Stand | Build,
    Field(discriminator="kind"),
]
Boxes = Mapping[str, Box]
"""The box around each part that an operation is about [m]."""
Patch = list[dict[str, Any]]


def arranged(scene: Scene, operation: Operation, boxes: Boxes) -> Made | None:
    """The patch that does an operation, empty when all is so already; `key` is the first new entry, if there is one.

    None when nothing of what it is about is there. `boxes` are those of the operation's parts that are there; of all
    parts, when it names none.
    """
    if isinstance(operation, Sort):
        return _sorted(scene, operation.by, boxes)
    if isinstance(operation, Stand):
        return _stood(scene, operation, boxes)
    if isinstance(operation, Build):
        brought = [box for key, box in boxes.items() if scene.parts[key].form is None and scene.parts[key].visible]
        return staged(scene, operation.piece, around(brought) if brought else None)
    keys = [key for key in operation.parts if key in scene.parts and key in boxes]
    if not keys:
        return None
    whole = around([boxes[key] for key in keys])
    what = scene.parts[keys[0]].name if len(keys) == 1 else f"{len(keys)} parts"
    match operation:
        case Duplicate():
            return _duplicated(scene, keys, operation, boxes, what)
        case Move():
            return _as_one(scene, keys, _standing(whole), operation, f"Move {what}")
        case Mirror():
            return _mirrored(scene, keys, whole, operation.axis, f"Mirror {what}")
        case Drop():
            lowered = (0.0, scene.ground.height - whole[0][1], 0.0)
            return _shifted(scene, dict.fromkeys(keys, lowered), f"Drop {what} to the ground")
        case Centre():
            x, _, z = _standing(whole)
            return _shifted(scene, dict.fromkeys(keys, (-x, 0.0, -z)), f"Centre {what}")
        case Align():
            shifts = {key: _aligned(boxes[key], whole, operation) for key in keys}
            return _shifted(scene, shifts, f"Align {what}")
        case Remove():
            return Made("", f"Remove {what}", [{"op": "remove", "path": f"/parts/{key}"} for key in keys])


def _stood(scene: Scene, operation: Stand, boxes: Boxes) -> Made | None:
    asset, after = scene.asset, scene
    if asset is None or not boxes:
        return None
    if operation.up is not None:
        after = turned_up(after, asset, operation.up, around(list(boxes.values())))
    if operation.scale is not None and after.asset is not None:
        after = rescaled(after, after.asset, operation.scale)
    patch = difference(scene.plain(), after.plain())
    return Made("", "Upright axis" if operation.scale is None else "Unit of the asset", patch)


def around(boxes: Sequence[Box]) -> Box:
    """The box around boxes."""
    return (
        [min(box[0][i] for box in boxes) for i in range(3)],
        [max(box[1][i] for box in boxes) for i in range(3)],
    )


def _standing(box: Box) -> tuple[float, float, float]:
    return (box[0][0] + box[1][0]) / 2, box[0][1], (box[0][2] + box[1][2]) / 2


def _middle(box: Box) -> list[float]:
    return [(a + b) / 2 for a, b in zip(*box, strict=True)]


def _rounded(value: float) -> float:
    return float(f"{max(min(value, FAR), -FAR):.9g}")


def _replaced(key: str, part: Part, changes: Mapping[str, Any]) -> Patch:
    return [
        {"op": "replace", "path": f"/parts/{key}/{name}", "value": value}
        for name, value in changes.items()
        if getattr(part, name) != value
    ]


def _shifted(scene: Scene, shifts: Mapping[str, Sequence[float]], label: str) -> Made:
    patch: Patch = []
    for key, shift in shifts.items():
        part = scene.parts[key]
        offset = [_rounded(a + b) for a, b in zip(part.offset, shift, strict=True)]
        patch += _replaced(key, part, {"offset": tuple(offset)})
    return Made("", label, patch)


def _aligned(box: Box, whole: Box, operation: Align) -> list[float]:
    i = _AXES.index(operation.axis)
    edge = {"low": lambda b: b[0][i], "high": lambda b: b[1][i], "middle": lambda b: (b[0][i] + b[1][i]) / 2}
    shift = [0.0, 0.0, 0.0]
    shift[i] = edge[operation.to](whole) - edge[operation.to](box)
    return shift


def _turned_about(point: Sequence[float], centre: Sequence[float], degrees: float) -> list[float]:
    """A point turned about a vertical axis."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, z = point[0] - centre[0], point[2] - centre[2]
    return [centre[0] + c * x + s * z, point[1], centre[2] - s * x + c * z]


def _as_one(scene: Scene, keys: Sequence[str], centre: Sequence[float], operation: Move, label: str) -> Made:
    patch: Patch = []
    for key in keys:
        patch += _replaced(key, scene.parts[key], _moved(scene.parts[key], centre, operation))
    return Made("", label, patch)


def _moved(part: Part, centre: Sequence[float], by: Move) -> dict[str, Any]:
    """Fields of a part that is moved with others about a common centre."""
    now = [p + o for p, o in zip(part.pivot, part.offset, strict=True)]
    turned = _turned_about(now, centre, by.turn)
    there = [c + (t - c) * by.size + o for c, t, o in zip(centre, turned, by.offset, strict=True)]
    return {
        "offset": tuple(_rounded(t - p) for t, p in zip(there, part.pivot, strict=True)),
        "size": min(max(_rounded(part.size * by.size), 0.001), 1000.0),
        **(_turns(turn_matrix(0, by.turn, 0) @ _turn_of(part)) if by.turn else {}),
    }


def _turn_of(part: Part) -> np.ndarray:
    return turn_matrix(part.turn_x, part.turn_y, part.turn_z)


def _turns(matrix: np.ndarray) -> dict[str, float]:
    return {f"turn_{axis}": _rounded(round(turn, 6)) for axis, turn in zip(_AXES, turns_of(matrix), strict=True)}


def _mirrored(scene: Scene, keys: Sequence[str], whole: Box, axis: Literal["x", "y", "z"], label: str) -> Made:
    patch: Patch = []
    centre, i = _middle(whole), _AXES.index(axis)
    for key in keys:
        part = scene.parts[key]
        offset = list(part.offset)
        offset[i] = _rounded(2 * (centre[i] - part.pivot[i]) - part.offset[i])
        # Mirror times turn times mirror is a turn; two mirrors along different axes are half a turn.
        mirror, before = mirror_matrix(axis), mirror_matrix(part.mirror)
        turn = mirror @ _turn_of(part) @ mirror
        left = axis if part.mirror == "none" else "none"
        if part.mirror != "none":
            turn = turn @ mirror @ before
        changes = {"offset": tuple(offset), **_turns(turn), "mirror": left}
        patch += _replaced(key, part, changes)
    return Made("", label, patch)


def _copy_name(name: str) -> tuple[str, int]:
    """("Bead", 3) of "Bead 3"."""
    found = re.fullmatch(r"(.*\S) (\d{1,6})", name)
    return (found[1], int(found[2])) if found else (name, 1)


def _duplicated(scene: Scene, keys: Sequence[str], operation: Duplicate, boxes: Boxes, what: str) -> Made:
    taken, names = set(scene.parts), {part.name for part in scene.parts.values()}
    centre = _standing(around([boxes[key] for key in keys]))
    patch, materials = _own_materials(scene, keys) if operation.own_materials else ([], {})
    first = ""
    for number in range(1, operation.count + 1):
        step = tuple(s * number for s in operation.step)
        by = Move(kind="move", parts=tuple(keys), offset=step, turn=math.remainder(operation.turn * number, 360))
        for key in keys:
            part = scene.parts[key]
            stem, count = _copy_name(part.name)
            while f"{stem} {count}" in names or count == 1:
                count += 1
            fresh, _ = free_key(taken, key)
            changes = {"name": f"{stem} {count}"[:200], "material": materials.get(part.material, part.material)}
            changes |= _moved(part, centre, by)
            taken.add(fresh)
            names.add(changes["name"])
            value = part.model_copy(update=changes).model_dump(mode="json")
            patch.append({"op": "add", "path": f"/parts/{fresh}", "value": value})
            first = first or fresh
    return Made(first, f"Duplicate {what}", patch)


def _own_materials(scene: Scene, keys: Sequence[str]) -> tuple[Patch, dict[str, str]]:
    patch, fresh = [], {}
    taken = set(scene.materials)
    for worn in dict.fromkeys(scene.parts[key].material for key in keys):
        material = scene.materials[worn]
        key, number = free_key(taken, worn)
        taken.add(key)
        fresh[worn] = key
        value = material.model_copy(update={"name": f"{material.name[:190]} {number + 1}"}).model_dump(mode="json")
        patch.append({"op": "add", "path": f"/materials/{key}", "value": value})
    return patch, fresh


_DECADES = {"Under 1 mm": 0.001, "1 to 10 mm": 0.01, "1 to 10 cm": 0.1, "10 cm to 1 m": 1.0, "1 to 10 m": 10.0}


def _sorted(scene: Scene, by: str, boxes: Boxes) -> Made:
    sets: dict[str, list[str]] = {}
    for key, part in scene.parts.items():
        if by == "material":
            name = scene.materials[part.material].name
        elif by == "name":
            name = re.sub(r"[\s_.\-]*\d+$", "", part.name) or part.name
        elif key in boxes:
            reach = max(b - a for a, b in zip(*boxes[key], strict=True))
            name = next((word for word, limit in _DECADES.items() if reach < limit), "10 m and more")
        else:
            continue
        sets.setdefault(name, []).append(key)
    if by == "name":
        sets = {name: keys for name, keys in sets.items() if len(keys) > 1}
    patch, first, taken = [], "", set(scene.part_sets)
    for name, keys in sets.items():
        key, _ = free_key(taken, "set")
        taken.add(key)
        first = first or key
        value = PartSet(name=name, parts=tuple(keys)).model_dump(mode="json")
        patch.append({"op": "add", "path": f"/part_sets/{key}", "value": value})
    return Made(first, f"Sort parts by {by}", patch)
