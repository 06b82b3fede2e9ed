"""What is done with parts as wholes: copied, mirrored, dropped, aligned, taken away, sorted into sets.

In: the document, an operation, the boxes around its parts. Out: the patch that does it and what it is called. Called by
the render host, which knows where the parts are.
"""

import math
import re
from collections.abc import Callable, Mapping, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field
from scipy.spatial.transform import Rotation

from lantern.scene.copying import Copier, own_materials
from lantern.scene.document import PartSet, Scene
from lantern.scene.fields import Box, Vector
from lantern.scene.grouping import (
    Top,
    dissolved,
    emptied,
    gathered,
    moved_into,
    replaced,
    tops_of,
)
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.model import Key, Model
from lantern.scene.patching import difference
from lantern.scene.placed import Placed
from lantern.scene.placing import REST, Places, placed_as, placement_of, rounded
from lantern.scene.presence import seen
from lantern.scene.staging import Piece, ground_again, staged
from lantern.scene.standing import rescaled, turned_up
from lantern.scene.strewing import strewn
from lantern.scene.turning import Axis, mirror_matrix, turn_matrix

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


class Put(Model):
    """Stands parts as one on a point of a surface, upright or along its normal."""

    kind: Literal["put"]
    parts: Parts
    position: Vector
    normal: Vector
    along: bool = False


class Strew(Model):
    """Adds copies of parts on the surface of another; the parts themselves stay."""

    kind: Literal["strew"]
    parts: Parts
    over: Key


class Remove(Model):
    """Takes parts away."""

    kind: Literal["remove"]
    parts: Parts


class Gather(Model):
    """Makes a group of parts; groups that are whole among them become groups within it."""

    kind: Literal["gather"]
    parts: Parts


class Regroup(Model):
    """Puts parts, and groups that are whole among them, into a group, or into none."""

    kind: Literal["regroup"]
    parts: Parts
    into: Key | None = None


class Dissolve(Model):
    """Takes a group away and leaves what is in it where it stands."""

    kind: Literal["dissolve"]
    group: Key


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
    Duplicate | Move | Mirror | Drop | Align | Centre | Put | Strew | Remove
    | Gather | Regroup | Dissolve | Sort | Stand | Build,
    Field(discriminator="kind"),
]  # fmt: skip
Boxes = Mapping[str, Box]
"""The box around each part that an operation is about [m]."""


def arranged(scene: Scene, operation: Operation, boxes: Boxes) -> Made | None:
    """The patch that does an operation, empty when all is so already; `key` is the first new entry, if there is one.

    None when nothing of what it is about is there. `boxes` are those of the parts that it is `about`, where they are
    there.
    """
    if isinstance(operation, Sort):
        return _sorted(scene, operation.by, boxes)
    if isinstance(operation, Stand):
        return _stood(scene, operation, boxes)
    if isinstance(operation, Dissolve):
        return dissolved(scene, operation.group)
    if isinstance(operation, Build):
        present = seen(scene).parts
        brought = [box for key, box in boxes.items() if present[key].form is None and present[key].visible]
        return staged(scene, operation.piece, around(brought) if brought else None)
    keys = [key for key in operation.parts if key in scene.parts and key in boxes]
    if not keys:
        return None
    whole = around([boxes[key] for key in keys])
    tops = tops_of(scene, keys)
    what = tops[0].one.name if len(tops) == 1 else f"{len(keys)} parts"

    def box_of(top: Top) -> Box:
        return around([boxes[key] for key in top.parts])

    match operation:
        case Duplicate():
            return _duplicated(scene, keys, operation, boxes, what)
        case Move():
            by = _as_one(_standing(whole), operation)
            return _carried(scene, tops, lambda _: by, f"Move {what}")
        case Mirror():
            mirrored = _about(_middle(whole), mirror_matrix(operation.axis))
            return _carried(scene, tops, lambda _: mirrored, f"Mirror {what}")
        case Drop():
            lowered = _shift((0.0, scene.ground.height - whole[0][1], 0.0))
            return _carried(scene, tops, lambda _: lowered, f"Drop {what} to the ground")
        case Centre():
            x, _, z = _standing(whole)
            return _carried(scene, tops, lambda _: _shift((-x, 0.0, -z)), f"Centre {what}")
        case Align():
            return _carried(scene, tops, lambda top: _aligned(box_of(top), whole, operation), f"Align {what}")
        case Put():
            there = _put(_standing(whole), operation)
            return _carried(scene, tops, lambda _: there, f"Stand {what} on a surface")
        case Strew():
            return strewn(scene, keys, operation.over, boxes)
        case Gather():
            return gathered(scene, keys, _middle(whole))
        case Regroup():
            return moved_into(scene, keys, operation.into)
        case Remove():
            paths = [f"/parts/{key}" for key in keys] + [f"/part_groups/{key}" for key in emptied(scene, keys)]
            removed = [{"op": "remove", "path": path} for path in paths]
            return Made("", f"Remove {what}", [*removed, *ground_again(scene, keys)])


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


def moved(one: Placed, by: np.ndarray, space: np.ndarray) -> dict[str, Any]:
    """Fields of something that a map (4, 4) of the scene moves; `space` (4, 4) leads from its group to the scene.

    A shift leaves all but the offset as it was said.
    """
    within = by if space is REST else np.linalg.inv(space) @ by @ space
    if np.allclose(within[:3, :3], np.eye(3), atol=1e-12):
        return {"offset": tuple(rounded(a + b) for a, b in zip(one.offset, within[:3, 3], strict=True))}
    return placed_as(one, within @ placement_of(one))


def _shift(by: Sequence[float]) -> np.ndarray:
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return matrix


def _about(point: Sequence[float], linear: np.ndarray, offset: Sequence[float] = (0.0, 0.0, 0.0)) -> np.ndarray:
    """A map (4, 4) that keeps a point, but for an offset."""
    matrix = np.eye(4)
    matrix[:3, :3] = linear
    matrix[:3, 3] = np.array(point) + np.array(offset) - linear @ np.array(point)
    return matrix


def _carried(scene: Scene, tops: Sequence[Top], by: Callable[[Top], np.ndarray], label: str) -> Made:
    """What is taken as wholes, each moved by a map (4, 4) of the scene."""
    places, patch = Places.of(scene), list[dict[str, Any]]()
    for top in tops:
        patch += replaced(top.path, top.one, moved(top.one, by(top), places.group(top.one.group)))
    return Made("", label, patch)


def _aligned(box: Box, whole: Box, operation: Align) -> np.ndarray:
    i = _AXES.index(operation.axis)
    edge = {"low": lambda b: b[0][i], "high": lambda b: b[1][i], "middle": lambda b: (b[0][i] + b[1][i]) / 2}
    shift = [0.0, 0.0, 0.0]
    shift[i] = edge[operation.to](whole) - edge[operation.to](box)
    return _shift(shift)


def _as_one(centre: Sequence[float], by: Move) -> np.ndarray:
    return _about(centre, turn_matrix(0, by.turn, 0) * by.size, by.offset)


def _put(foot: Sequence[float], operation: Put) -> np.ndarray:
    linear = np.eye(3)
    length = float(np.linalg.norm(operation.normal))
    if operation.along and length > 0:
        turn, _ = Rotation.align_vectors([np.array(operation.normal) / length], [[0.0, 1.0, 0.0]])
        linear = turn.as_matrix()
    return _about(foot, linear, np.subtract(operation.position, foot).tolist())


def about(operation: Operation) -> tuple[str, ...] | None:
    """Keys of the parts whose boxes an operation asks for; None for all of them."""
    parts: tuple[str, ...] | None = getattr(operation, "parts", None)
    return (*parts, operation.over) if parts and isinstance(operation, Strew) else parts


def _duplicated(scene: Scene, keys: Sequence[str], operation: Duplicate, boxes: Boxes, what: str) -> Made:
    centre = _standing(around([boxes[key] for key in keys]))
    patch, materials = own_materials(scene, keys) if operation.own_materials else ([], {})
    copier, places = Copier(scene, materials), Places.of(scene)
    first = ""
    for number in range(1, operation.count + 1):
        step = tuple(s * number for s in operation.step)
        turn = math.remainder(operation.turn * number, 360)
        by = _as_one(centre, Move(kind="move", parts=tuple(keys), offset=step, turn=turn))
        changed = [(top, moved(top.one, by, places.group(top.one.group))) for top in tops_of(scene, keys)]
        added, made = copier.copies(changed)
        patch += added
        first = first or made
    return Made(first, f"Duplicate {what}", patch)


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
