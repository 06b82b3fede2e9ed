"""Answers to the questions of a window about the camera and its shots.

In: the question, the engine, the pane it is about. Out: the answer. Called by `answers`.
"""

import numpy as np

from lantern.assets.errors import AssetError
from lantern.assets.pictures import read_picture
from lantern.engine.engine import Engine, Resolver
from lantern.engine.relighting import lit_picture, metered_exposure
from lantern.motion.focus import focused, followed_point, set_distance
from lantern.picture.encode import encode_drawing, encode_jpeg
from lantern.scene import shots
from lantern.scene.document import Scene
from lantern.scene.exposing import by_shutter, camera_stops
from lantern.scene.focus import sharp_between
from lantern.scene.frames import framed
from lantern.scene.framing import focus_through
from lantern.scene.making import Made
from lantern.scene.patching import replaced
from lantern.scene.upright import standing_upright
from lantern.scene.vanishing import matched
from server.host.ladder import loupe_region
from server.host.look_answers import data_address
from server.host.pane import Pane
from server.protocol import cameras
from server.protocol.looks import LookSeen

LAYOUT_PIXELS = 2048
"""Longer side of the drawing of a layout as it is shown."""
_ShotQuestion = cameras.KeepShot | cameras.CopyShot | cameras.TakeShot


def camera_made(question: cameras.CameraQuestion, engine: Engine, pane: Pane) -> Made | None:
    """The patch that a question asks for; None where it cannot be had, or is no question of a patch."""
    match question:
        case cameras.StandUpright():
            return standing_upright(engine.scene, pane.camera, question.how)
        case cameras.MeterExposure():
            return _exposed(question, engine.scene, pane)
        case cameras.FrameShape():
            return framed(engine.scene, question.shape, upright=question.upright, dpi=question.dpi)
        case cameras.FollowFocus():
            return _followed(question, engine, pane)
        case cameras.FocusBetween():
            return _between(question, engine, pane)
        case cameras.ExposeBy():
            return by_shutter(engine.scene, engine.scene.camera, wanted=question.how == "shutter")
        case cameras.KeepShot() | cameras.CopyShot() | cameras.TakeShot():
            return _shot_made(question, engine.scene, pane)
    return None


def _followed(question: cameras.FollowFocus, engine: Engine, pane: Pane) -> Made | None:
    """None where there is no part. The distance is set as well: it is what stays when the part is gone."""
    scene, camera = engine.scene, pane.camera
    if question.at is None:
        distance = round(set_distance(camera, focused(scene, camera).focus_distance), 6)
        patch = [replaced("/camera/focus_on", None), replaced("/camera/focus_distance", distance)]
        return Made("", "Focus follows nothing", patch)
    found = engine.pick(camera, pane.shape, *question.at)
    if found is None or found.part is None:
        return None
    point = followed_point(scene, found.part, np.array(found.position))
    if point is None:
        return None
    distance = round(max(found.depth, 0.001), 6)
    patch = [replaced("/camera/focus_on", point.model_dump()), replaced("/camera/focus_distance", distance)]
    return Made("", f"Focus follows {scene.parts[found.part].name}", patch)


def _between(question: cameras.FocusBetween, engine: Engine, pane: Pane) -> Made | None:
    """None where nothing is seen."""
    camera, shape = pane.camera, pane.shape
    depths = []
    for x, y in (question.near, question.far):
        found = engine.pick(camera, shape, x, y)
        if found is None:
            return None
        depths.append(focus_through(camera, shape, x, y, found.depth))
    sharp = sharp_between(camera, shape, *depths)
    if sharp is None:
        return None
    distance, f_number = set_distance(camera, sharp[0]), sharp[1]
    patch = [
        replaced("/camera/focus_distance", round(distance, 6)),
        replaced("/camera/f_number", float(f"{f_number:.3g}")),
    ]
    if camera.focus_on is not None:
        patch.append(replaced("/camera/focus_on", None))
    return Made("", "Sharp from there to there", patch)


def camera_answer(
    question: cameras.CameraQuestion, engine: Engine, pane: Pane | None, resolve: Resolver
) -> LookSeen | cameras.CameraAnswer | None:
    """The answer of a question that does not ask for a patch; None for one that does."""
    match question:
        case cameras.LayoutPicture():
            return _layout(question, engine.scene, resolve)
        case cameras.ShotPicture():
            return _shot_seen(question, engine, pane, resolve)
        case cameras.MatchView():
            return _matched(question, engine, pane)
    return None


def _layout(question: cameras.LayoutPicture, scene: Scene, resolve: Resolver) -> cameras.LayoutSeen:
    """As PNG, since what is not drawn upon is clear."""
    if scene.layout is None:
        return cameras.LayoutSeen(asked=question.request, picture=None)
    try:
        pixels, _ = read_picture(resolve(scene.layout), scene.layout.name)
    except (AssetError, OSError) as error:
        problem = f"The layout cannot be shown: {error}"
        return cameras.LayoutSeen(asked=question.request, picture=None, problem=problem)
    drawing = encode_drawing(pixels, LAYOUT_PIXELS)
    return cameras.LayoutSeen(asked=question.request, picture=data_address(drawing, "png"))


def _matched(question: cameras.MatchView, engine: Engine, pane: Pane | None) -> cameras.ViewMatched:
    if pane is None:
        return cameras.ViewMatched(asked=question.request, camera=None)
    low, high = engine.compiled.bounds(None)
    stand = np.array(pane.camera.target)
    if bool(low[1] <= high[1]):
        stand = np.array([(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2])
    try:
        camera = matched(pane.camera, pane.shape, question.along, question.across, question.foot, stand)
    except ValueError as error:
        return cameras.ViewMatched(asked=question.request, camera=None, problem=str(error))
    return cameras.ViewMatched(asked=question.request, camera=camera)


def _exposed(question: cameras.MeterExposure, scene: Scene, pane: Pane) -> Made | None:
    """By what the loupe holds, if there is one."""
    light = pane.light()
    if light is None:
        return None
    loupe = pane.state.loupe if pane.state is not None else None
    if loupe is not None:
        x, y, width, height = loupe_region(loupe, light.shape[1], light.shape[0])
        light = light[y : y + height, x : x + width]
    exposure = metered_exposure(light, question.how)
    if exposure is None:
        return None
    said = "Exposure by grey" if question.how == "grey" else "Exposure that holds the lights"
    return Made("", said, [replaced("/look/exposure", _held(exposure - camera_stops(scene.camera)))])


def _held(exposure: float) -> float:
    return round(min(max(exposure, -30.0), 30.0), 3)


def _shot_made(question: _ShotQuestion, scene: Scene, pane: Pane) -> Made | None:
    """None when the shot is gone, or locked."""
    try:
        match question:
            case cameras.KeepShot():
                return shots.kept(scene, pane.camera, question.shot)
            case cameras.CopyShot():
                return shots.copied(scene, question.shot)
            case cameras.TakeShot():
                return shots.taken(scene, question.shot)
    except LookupError:
        return None


def _shot_seen(question: cameras.ShotPicture, engine: Engine, pane: Pane | None, resolve: Resolver) -> LookSeen:
    shot = engine.scene.shots.get(question.shot)
    if pane is None or shot is None:
        return LookSeen(asked=question.request, picture=None)
    seen = shots.seen_from(engine.scene, shot)
    try:
        picture = lit_picture(engine, seen, shot.camera, seen.print.width / seen.print.height, resolve)
    except ValueError:
        return LookSeen(asked=question.request, picture=None)
    address = None if picture is None else data_address(encode_jpeg(picture), "jpeg")
    return LookSeen(asked=question.request, picture=address, later=address is None)
