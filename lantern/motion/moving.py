"""The document at a moment of its time line: values as they are then, and the ways of parts and camera while the
shutter is open.

In: a document whose `shutter.time` says which moment. Out: a document without anything left to move but what keys say.
Called by the engine. Nothing is kept between calls but what `Mover` remembers, so that any frame can be made alone.

A value between keys runs along a cubic Bézier as CSS Easing Functions Level 1 has it (section 2.2). Turns are about an
axis, never along chords: while the shutter is open they are cut into steps of a few degrees.
"""

import math
from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pydantic import BaseModel, ValidationError

from lantern.motion.clips import PlayedShutter, played
from lantern.motion.cuts import leading, on_screen
from lantern.motion.pacing import paced
from lantern.motion.poses import is_open, part_pose
from lantern.motion.relit import relit
from lantern.scene.document import Camera, CameraKey, Part, PartKey, Scene, Shutter
from lantern.scene.motion import Bezier, Exploded, Keyed, Move, Relight, Travel, Turntable, ValueKey
from lantern.scene.patching import steps_of
from lantern.scene.placing import REST, Places, affine
from lantern.scene.presence import seen
from lantern.scene.rigs import turned_light_of
from lantern.scene.turning import turn_matrix

DEGREES_A_STEP = 4.0
STEPS, MOST_STEPS = 9, 33
"""Moments while the shutter is open, and the most of them when something turns quickly."""
UP = np.array([0.0, 1.0, 0.0])


def bezier(curve: Bezier, share: float) -> float:
    """y of a cubic Bézier from (0, 0) to (1, 1) where its x is `share`; x rises, so halving finds it."""
    ax, ay, bx, by = curve
    low, high = 0.0, 1.0
    for _ in range(40):
        t = 0.5 * (low + high)
        if 3 * (1 - t) ** 2 * t * ax + 3 * (1 - t) * t * t * bx + t**3 < share:
            low = t
        else:
            high = t
    t = 0.5 * (low + high)
    return 3 * (1 - t) ** 2 * t * ay + 3 * (1 - t) * t * t * by + t**3


def value_at(keys: tuple[ValueKey, ...], times: list[float], time: float) -> bool | float | tuple[float, ...]:
    """The value of keys at `times` at a moment; held before the first and after the last."""
    i = bisect_right(times, time) - 1
    if i < 0 or i == len(keys) - 1:
        return keys[max(i, 0)].value
    first, second = keys[i], keys[i + 1]
    if first.to_next == "hold" or isinstance(first.value, bool) or isinstance(second.value, bool):
        return first.value
    share = (time - first.time) / (second.time - first.time)
    if not isinstance(first.to_next, str):
        share = bezier(first.to_next, share)
    if isinstance(first.value, tuple) and isinstance(second.value, tuple):
        return tuple(a + (b - a) * share for a, b in zip(first.value, second.value, strict=True))
    assert not isinstance(first.value, tuple) and not isinstance(second.value, tuple)
    return first.value + (second.value - first.value) * share


@dataclass
class Moment:
    """The document as it is at one moment, and what is laid over the places of its parts (4, 4)."""

    scene: Scene
    over: dict[str, np.ndarray] = field(default_factory=dict)

    def lay(self, part: str, matrix: np.ndarray) -> None:
        """Move a part on in the scene."""
        before = self.over.get(part)
        self.over[part] = matrix if before is None else matrix @ before


def moment_of(scene: Scene, time: float, times: Mapping[str, list[float]], shot: str | None = None) -> Moment:
    """The document at a moment [s]; `times` are those of the keys of each keyed move. What is gone moves nothing.

    `shot` is the travel that has the camera, that of the moment unless given.
    """
    now = Moment(scene)
    shot = shot or on_screen(scene.motion.moves, scene.shots, time)
    light = leading(scene.motion.moves, Relight, scene.conditions, time)
    for key, move in scene.motion.moves.items():
        if not move.enabled:
            continue
        if isinstance(move, Keyed):
            value = value_at(move.keys, times[key], time)
            now.scene = with_value(now.scene, steps_of(move.path), value)
            continue
        share = _share(move, time)
        match move:
            case Turntable():
                _turn(now, move, share)
            case Exploded():
                _explode(now, move, time)
            case Travel() if key == shot:
                now.scene = _travelled(now.scene, move, share)
            case Relight() if key == light:
                of = now.scene.conditions
                now.scene = relit(now.scene, of[move.first], of[move.last], share)
    return now


def _share(move: Move, time: float) -> float:
    return paced((time - move.start) / move.seconds, move.pace)


def _about(pivot: tuple[float, ...], degrees: float) -> np.ndarray:
    """(4, 4) that turns about an upright axis."""
    matrix = np.eye(4)
    matrix[:3, :3] = turn_matrix(0.0, degrees, 0.0)
    matrix[:3, 3] = np.array(pivot) - matrix[:3, :3] @ np.array(pivot)
    return matrix


def _turn(now: Moment, move: Turntable, share: float) -> None:
    degrees = move.degrees * share
    if degrees % 360.0 == 0.0:
        return
    if move.turns == "light":
        now.scene = turned_light_of(now.scene, move.pivot, degrees)
        return
    matrix = _about(move.pivot, degrees)
    if move.turns == "asset":
        parts = now.scene.parts
        # Pieces of a set stay, unless there is nothing else.
        for key in [key for key, part in parts.items() if part.form is None] or parts:
            now.lay(key, matrix)
        return
    camera = now.scene.camera
    position, target = (tuple(matrix[:3, :3] @ np.array(p) + matrix[:3, 3]) for p in (camera.position, camera.target))
    now.scene = _seen_by(now.scene, {"position": position, "target": target})


def _explode(now: Moment, move: Exploded, time: float) -> None:
    """Each part has a window of its own in the whole time: all of it, or one after the other."""
    share = (time - move.start) / move.seconds
    if move.returns:
        share = 1.0 - abs(2.0 * min(max(share, 0.0), 1.0) - 1.0)
    count = len(move.ways)
    window = 1.0 - move.stagger * (1.0 - 1.0 / max(count, 1))
    for place, (key, way) in enumerate(move.ways.items()):
        if key not in now.scene.parts:
            continue
        begins = (1.0 - window) * place / max(count - 1, 1)
        gone = move.amount * paced((share - begins) / window, move.pace)
        if gone != 0.0 and any(way):
            matrix = np.eye(4)
            matrix[:3, 3] = gone * np.array(way)
            now.lay(key, matrix)


def _seen_by(scene: Scene, changes: dict[str, Any]) -> Scene:
    return scene.model_copy(update={"camera": scene.camera.model_copy(update=changes)})


def _travelled(scene: Scene, move: Travel, share: float) -> Scene:
    first, last = scene.shots[move.first].camera, scene.shots[move.last].camera
    if move.first == move.last:  # still to the last bit, so that nothing is computed anew
        return scene.model_copy(update={"camera": first.model_copy(update={"keys": ()})})
    position, target = _on_the_arc(first, last, share)
    changes: dict[str, Any] = {"position": position, "target": target, "keys": ()}
    for name in ("focal_length", "focus_distance", "f_number"):
        a, b = getattr(first, name), getattr(last, name)
        if a is not None and b is not None:
            changes[name] = float(a ** (1.0 - share) * b**share)  # as many times as much in each second
    for name in ("roll", "shift_x", "shift_y"):
        a, b = getattr(first, name), getattr(last, name)
        changes[name] = a + (b - a) * share
    return scene.model_copy(update={"camera": first.model_copy(update=changes)})


def _on_the_arc(first: Camera, last: Camera, share: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """(position, target): the target goes straight, the camera turns about it, nearer or further at an even rate."""
    targets = [np.array(c.target, np.float64) for c in (first, last)]
    aways = [np.array(c.position, np.float64) - t for c, t in zip((first, last), targets, strict=True)]
    target = targets[0] + (targets[1] - targets[0]) * share
    lengths = [max(float(np.linalg.norm(away)), 1e-9) for away in aways]
    distance = lengths[0] ** (1.0 - share) * lengths[1] ** share
    (a0, h0), (a1, h1) = (_angles(away) for away in aways)
    azimuth = a0 + ((a1 - a0 + math.pi) % (2 * math.pi) - math.pi) * share
    height = h0 + (h1 - h0) * share
    level = distance * math.cos(height)
    away = np.array([level * math.sin(azimuth), distance * math.sin(height), level * math.cos(azimuth)])
    return tuple(float(v) for v in target + away), tuple(float(v) for v in target)


def _angles(away: np.ndarray) -> tuple[float, float]:
    return math.atan2(away[0], away[2]), math.atan2(away[1], math.hypot(away[0], away[2]))


def with_value(one: Any, steps: list[str], value: Any) -> Any:
    """A document, or a part of it, with a value at a place; as it was where there is no such place, or it takes no such
    value: the model that has the place says which ones it takes."""
    step, rest = steps[0], steps[1:]
    if not _has(one, step):
        return one
    before = one[step] if isinstance(one, dict) else one[int(step)] if isinstance(one, tuple) else getattr(one, step)
    after = with_value(before, rest, value) if rest else _like(before, value)
    if after is before:
        return one
    if isinstance(one, dict):
        return {**one, step: after}
    if isinstance(one, tuple):
        return (*one[: int(step)], after, *one[int(step) + 1 :])
    if _is_model(before) or (isinstance(before, dict) and any(map(_is_model, before.values()))):
        return one.model_copy(update={step: after})  # what is within has been asked
    try:
        return type(one).model_validate({**one.__dict__, step: after})
    except ValidationError:
        return one


def _is_model(one: Any) -> bool:
    return isinstance(one, BaseModel)


def _has(one: Any, step: str) -> bool:
    """Whether something stands at a step."""
    if isinstance(one, dict):
        return step in one
    if isinstance(one, tuple):
        return step.isdigit() and int(step) < len(one)
    return _is_model(one) and step in type(one).model_fields


def _like(before: Any, value: Any) -> Any:
    """A value for the place of another, of its kind; that one where there can be none."""
    if isinstance(before, bool) or isinstance(value, bool):
        return value if isinstance(before, bool) and isinstance(value, bool) else before
    if isinstance(before, int):
        return round(value) if isinstance(value, float) else before
    return value if before is None or type(before) is type(value) else before


class Mover:
    """Documents at their moments, one after the other: what did not change since the last is the same object."""

    def __init__(self) -> None:
        self._moved = Scene()

    def moved(self, scene: Scene) -> Scene:
        """The document as a frame of its moment shows it; itself, where nothing moves or is out of sight as a group."""
        moves = any(move.enabled for move in scene.motion.moves.values())
        made, fresh = self._moved, seen(_moved(scene) if moves else scene)
        if fresh is scene:
            return scene
        # What is equal stays the same object: the compiled scene compares by identity first.
        kept = {
            name: getattr(made, name)
            for name in Scene.model_fields
            if getattr(fresh, name) is not getattr(scene, name) and getattr(fresh, name) == getattr(made, name)
        }
        self._moved = fresh.model_copy(update=kept)
        return self._moved


def _around(scene: Scene, shot: str | None) -> tuple[Moment, list[Moment], list[float]]:
    """(the document now, while the shutter is open, the moments of that); no cut is seen while it is open."""
    times = {key: [k.time for k in move.keys] for key, move in scene.motion.moves.items() if isinstance(move, Keyed)}
    shutter = scene.shutter
    now = moment_of(scene, shutter.time, times, shot)
    if not is_open(shutter):
        return now, [now], [shutter.time]
    moments = _moments(scene)
    return now, [moment_of(scene, moment, times, shot) for moment in moments], moments


def _moved(scene: Scene) -> Scene:
    now, around, moments = _around(scene, on_screen(scene.motion.moves, scene.shots, scene.shutter.time))
    shutter = played(now.scene.shutter, scene.motion.moves)
    parts = _parts(now, around, moments, shutter)
    camera = _camera(now.scene.camera, [each.scene.camera for each in around], moments)
    return now.scene.model_copy(update={"parts": parts, "camera": camera, "shutter": shutter})


def camera_of(scene: Scene, shot: str) -> Camera:
    """The camera of a document at its moment as a travel has it, by its key."""
    now, around, moments = _around(scene, shot)
    return _camera(now.scene.camera, [each.scene.camera for each in around], moments)


def _moments(scene: Scene) -> list[float]:
    """While the shutter is open: so many that nothing turns further from one to the next than DEGREES_A_STEP."""
    shutter = scene.shutter
    open_for = shutter.closes - shutter.opens
    turns = [m for m in scene.motion.moves.values() if isinstance(m, Turntable) and m.enabled]
    # The quickest pace is twice the even one.
    degrees = sum(2.0 * abs(m.degrees) * min(open_for / m.seconds, 1.0) for m in turns)
    steps = min(max(STEPS, math.ceil(degrees / DEGREES_A_STEP) + 1), MOST_STEPS)
    return [float(t) for t in np.linspace(shutter.time + shutter.opens, shutter.time + shutter.closes, steps)]


def _parts(now: Moment, around: list[Moment], moments: list[float], shutter: Shutter) -> dict[str, Part]:
    """Parts with keys for all that is laid over them or carries them, and for the clip as it is played: their own
    fields stay as they are now."""
    scene = now.scene
    placed = any(
        each.scene.parts is not scene.parts or each.scene.part_groups is not scene.part_groups for each in around
    )
    moving = set().union(*(each.over for each in around)) if not placed else set(scene.parts)
    of_clip = shutter.of_clip if isinstance(shutter, PlayedShutter) else float
    by_clip = {key for key, part in scene.parts.items() if part.keys} if isinstance(shutter, PlayedShutter) else set()
    moving |= by_clip
    if not moving:
        return scene.parts
    here, there = Places.of(scene), [Places.of(each.scene) for each in around]
    parts = dict(scene.parts)
    keys = [key for key in scene.parts if key in moving]
    now_over = _stacked([here.over(scene.parts[key]) for key in keys])
    full = []
    for moment, places, each in zip(moments, there, around, strict=True):
        own = _stacked([_own(scene.parts[key], of_clip(moment)) for key in keys])
        over = _stacked([places.over(each.scene.parts[key]) for key in keys]) if placed else now_over
        laid = _stacked([each.over.get(key, REST) for key in keys])
        full.append(laid @ over @ own)
    rows = (np.linalg.inv(now_over) @ np.array(full))[:, :, :3].reshape(len(moments), len(keys), 12)
    rests = (np.abs(np.array(full) - now_over @ own) <= 1e-12).all(axis=(0, 2, 3)) if len(moments) == 1 else None
    for place, key in enumerate(keys):
        if rests is not None and rests[place] and key not in by_clip:
            continue
        numbers = rows[:, place].tolist()
        told = zip(moments, numbers, strict=True)
        ways = tuple(PartKey.model_construct(time=moment, matrix=tuple(row)) for moment, row in told)
        parts[key] = parts[key].model_copy(update={"keys": ways})
    return parts


def _own(part: Part, moment: float) -> np.ndarray:
    """(4, 4) of a part as its file has it at a moment."""
    return affine(part_pose(part, moment).ravel().tolist()) if part.keys else affine(part.matrix)


def _stacked(matrices: list[np.ndarray]) -> np.ndarray:
    """(n, 4, 4); one (1, 4, 4) for all, when they are the same object."""
    if all(one is matrices[0] for one in matrices):
        return matrices[0][None]
    return np.stack(matrices)


def _camera(camera: Camera, around: list[Camera], moments: list[float]) -> Camera:
    stands = [(each.position, each.target) for each in around]
    if all(one == (camera.position, camera.target) for one in stands):
        return camera
    keys = tuple(
        CameraKey.model_construct(time=moment, position=position, target=target)
        for moment, (position, target) in zip(moments, stands, strict=True)
    )
    return camera.model_copy(update={"keys": keys})
