"""Answers to the questions of a window about the time line.

In: the question, the engine, the pane it is about. Out: a patch. Called by `answers`.
"""

from collections.abc import Mapping

from lantern.engine.engine import Engine, Resolver
from lantern.motion.clips import clip_span
from lantern.motion.keying import KeyingError, pasted, toggled, values_now
from lantern.scene.camera_moves import camera_move
from lantern.scene.document import Scene
from lantern.scene.fields import Box
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.motion import MOST_MOVES, AnyMove, Keyed, Motion, Relight, Travel
from lantern.scene.movements import (
    clip_whole,
    day_of_the_sun,
    exploded,
    sequence,
    turntable_about,
    whole_box,
)
from lantern.scene.patching import Operation
from lantern.scene.presence import seen
from server.host.pane import Pane
from server.protocol.motion import (
    KeyedValues,
    KeyedValuesFound,
    MakeCameraMove,
    MakeClip,
    MakeDay,
    MakeExploded,
    MakeRelight,
    MakeSequence,
    MakeTravel,
    MakeTurntable,
    MotionAnswer,
    MotionQuestion,
    PasteKeys,
    ToggleKeys,
)
from server.protocol.parts import NotMade


def motion_made(question: MotionQuestion, engine: Engine, pane: Pane, resolve: Resolver) -> Made | None:
    """A new move over the whole time line; None where nothing is there to move, or no more can be."""
    scene = engine.scene
    if len(scene.motion.moves) >= MOST_MOVES:
        return None
    move: AnyMove
    moment, patch = 0.0, list[Operation]()
    match question:
        case MakeTurntable():
            boxes = _boxes_at_rest(engine, _asset_of(scene), resolve)
            if not boxes:
                return None
            move = turntable_about(whole_box(boxes), question.turns, pane.camera.target)
        case MakeExploded():
            wanted = [key for key in question.parts if key in scene.parts] or _asset_of(scene)
            boxes = _boxes_at_rest(engine, wanted, resolve)
            if len(boxes) < 2:
                return None
            move = exploded(boxes, question.along).model_copy(update={"pace": "soft"})
            moment = scene.motion.seconds / 2
        case MakeTravel() | MakeRelight():
            made = _from_to(question, scene)
            if made is None:
                return None
            move = made
        case MakeCameraMove():
            shots, move = camera_move(scene, pane.camera, question.way)
            patch = [
                {"op": "add", "path": f"/shots/{key}", "value": shot.model_dump(mode="json")}
                for key, shot in shots.items()
            ]
        case MakeClip():
            span = clip_span(scene, engine.asset.meshes if engine.asset else ())
            if span is None:
                return None
            move = clip_whole(scene, span)
        case MakeDay():
            if not scene.sky.enabled or scene.sky.place is None:
                return None
            move = day_of_the_sun(scene.motion.seconds)
        case _:
            return None
    if not isinstance(move, Keyed):
        move = move.model_copy(update={"seconds": scene.motion.seconds})
    key, _ = free_key(scene.motion.moves, "move")
    patch += [
        {"op": "add", "path": f"/motion/moves/{key}", "value": move.model_dump(mode="json")},
        {"op": "replace", "path": "/shutter/time", "value": moment},
    ]
    return Made(key, move.name, patch)


def _from_to(question: MakeTravel | MakeRelight, scene: Scene) -> Travel | Relight | None:
    """From one shot, or conditions, to others; None where either is gone."""
    kind, kept = (Travel, scene.shots) if isinstance(question, MakeTravel) else (Relight, scene.conditions)
    if question.first not in kept or question.last not in kept:
        return None
    name = f"{kept[question.first].name} to {kept[question.last].name}"[:200]
    return kind(name=name, first=question.first, last=question.last, pace="soft")


def motion_answer(
    question: MotionQuestion, engine: Engine, pane: Pane | None, resolve: Resolver
) -> MotionAnswer | NotMade | Made | None:
    """What is found, why not, or the patch that is asked for; None where nothing is there to move."""
    scene, asked = engine.scene, question.request
    try:
        match question:
            case MakeSequence():
                return _sequence(question, scene)
            case KeyedValues():
                return KeyedValuesFound(asked=asked, values=values_now(scene))
            case ToggleKeys():
                return toggled(scene, question.paths)
            case PasteKeys():
                return pasted(scene, question.move, question.keys)
    except KeyingError as error:
        return NotMade(asked=asked, problem=str(error))
    return motion_made(question, engine, pane, resolve) if pane is not None else None


def _sequence(question: MakeSequence, scene: Scene) -> Made | None:
    """Shots one after the other; None where one is gone, or no more moves can be."""
    names = {key: scene.shots[key].name for key in question.shots if key in scene.shots}
    if len(names) < len(question.shots) or len(scene.motion.moves) + len(names) > MOST_MOVES:
        return None
    taken, patch, first = set(scene.motion.moves), list[Operation](), ""
    for move in sequence(names, question.seconds, min(question.dissolve, question.seconds)):
        key, _ = free_key(taken, "move")
        taken.add(key)
        first = first or key
        patch.append({"op": "add", "path": f"/motion/moves/{key}", "value": move.model_dump(mode="json")})
    patch.append({"op": "replace", "path": "/motion/seconds", "value": question.seconds * len(names)})
    patch.append({"op": "replace", "path": "/shutter/time", "value": 0.0})
    return Made(first, f"Sequence of {len(names)} shots", patch)


def _asset_of(scene: Scene) -> list[str]:
    """The parts of the asset that are seen; of a document without one, all pieces."""
    there = [key for key, part in seen(scene).parts.items() if part.visible]
    return [key for key in there if scene.parts[key].form is None] or there


def _boxes_at_rest(engine: Engine, parts: list[str], resolve: Resolver) -> Mapping[str, Box]:
    """Boxes of parts [m] as they stand when nothing of the time line moves them."""
    own = engine.scene
    still = own.motion.model_copy(update={"moves": {}})
    try:
        if own.motion != Motion():
            engine.apply(own.model_copy(update={"motion": still}), resolve)
        boxes = engine.compiled.part_boxes(parts)
        return {key: (low.tolist(), high.tolist()) for key, (low, high) in boxes.items() if (high >= low).all()}
    finally:
        engine.apply(own, resolve)
