"""Answers to the questions of a window about light.

In: the question, the engine, the pane it is about. Out: the answer. Called by `answers`.
"""

import base64
from collections.abc import Sequence
from dataclasses import asdict

import numpy as np

from lantern.color import LUMINANCE
from lantern.engine import lighting, relighting
from lantern.engine.engine import Engine, Resolver
from lantern.engine.press import Press
from lantern.engine.unrolled import map_picture
from lantern.light.profiles import profile_solid
from lantern.picture.encode import encode_jpeg
from lantern.picture.histogram import histogram
from lantern.scene import balancing, conditions, rigs
from lantern.scene.exposing import camera_stops
from lantern.scene.fields import Box
from lantern.scene.making import Made
from lantern.scene.patching import replaced
from server.host.pane import Pane
from server.protocol import lighting as asked_of_light

SIZED = (
    asked_of_light.LightFromHere,
    asked_of_light.CopyLight,
    asked_of_light.TakeRig,
    asked_of_light.TurnLights,
    asked_of_light.KeepRig,
    asked_of_light.LitPicture,
    asked_of_light.BoxHaze,
)
"""Questions whose answer depends on where the asset is; measuring a million triangles is no part of dragging light."""
LOOKED_AT = 16_000
"""Pixels by which the shares of light groups are told: all of them would hold up the next edit."""


def made_of(question: asked_of_light.LightQuestion, engine: Engine, pane: Pane, box: Box | None) -> Made | None:
    """The patch that a question asks for; None where it cannot be had, or is no question of a patch."""
    scene = engine.scene
    try:
        match question:
            case asked_of_light.PlaceLight():
                return _placed(question, engine, _press(pane, question.x, question.y))
            case asked_of_light.LightFromHere():
                return lighting.light_from_here(engine, question.kind, pane.camera, box)
            case asked_of_light.CopyLight():
                return lighting.copied_light(scene, question.light, box, mirrors=question.mirrors)
            case asked_of_light.MakeCard():
                press = None if question.at is None else _press(pane, *question.at)
                return lighting.new_card(engine, press, question.shape)
            case asked_of_light.LightBy():
                file = None if question.map is None else question.map.model_dump(mode="json")
                said = f"Environment: {question.name}" if question.name else "Environment"
                return Made("", said, lighting.lit_by(engine, file, question.luminance))
            case asked_of_light.SwitchSky():
                patch = lighting.sky_switched(engine, on=question.on, keeps=question.keeps)
                return Made("", "Sky on" if question.on else "Sky off", patch)
            case asked_of_light.KeepConditions():
                return conditions.kept(scene, question.conditions)
            case asked_of_light.TakeConditions():
                return conditions.taken(scene, question.conditions)
            case asked_of_light.TakeRig():
                return rigs.rigged(scene, question.rig, box, adds=question.adds)
            case asked_of_light.TurnLights():
                patch = rigs.turned_lights(scene, box, question.degrees, question.stops)
                return Made("", "Turn all light" if question.degrees else "Dim all light", patch)
            case asked_of_light.BoxHaze():
                return lighting.haze_boxed(box, on=question.on)
            case asked_of_light.BakeBalance():
                return balancing.baked(scene)
            case asked_of_light.GreyCard():
                return _grey(engine, _press(pane, question.x, question.y))
    except LookupError:
        return None
    return None


def light_answer(
    question: asked_of_light.LightQuestion, engine: Engine, pane: Pane | None, resolve: Resolver, box: Box | None
) -> asked_of_light.LightAnswer | None:
    """The answer of a question that does not ask for a patch; None for one that does."""
    asked, scene = question.request, engine.scene
    match question:
        case asked_of_light.Grip():
            found = lighting.grip(engine, _press(pane, question.x, question.y), question.light) if pane else None
            shadow = asked_of_light.Shadow(**asdict(found)) if found else None
            return asked_of_light.Gripped(asked=asked, shadow=shadow)
        case asked_of_light.KeepRig():
            rig = rigs.rig_of(scene, question.name, box) if pane else None
            return asked_of_light.RigMade(asked=asked, rig=rig)
        case asked_of_light.LitPicture():
            return _lit(question, engine, pane, resolve, box)
        case asked_of_light.LightShares():
            return _shares(asked, engine, pane)
        case asked_of_light.Meter():
            read = relighting.read_meter(engine, _press(pane, question.x, question.y)) if pane else None
            values = asdict(read) if read else {"luminance": None, "ev": None, "illuminance": None}
            return asked_of_light.MeterFound(asked=asked, **values)
        case asked_of_light.Unrolled():
            picture = map_picture(scene, engine.compiled.environment)
            return asked_of_light.Lit(asked=asked, picture=_address(picture))
        case asked_of_light.ProfileSolid():
            return _solid(question, engine)
        case asked_of_light.HistogramWanted():
            return _histogram(asked, pane)
        case asked_of_light.SunDay():
            return asked_of_light.SunDayFound(asked=asked, day=tuple(lighting.day_of(scene.sky)))
    return None


def _press(pane: Pane, x: float, y: float) -> Press:
    return Press(pane.camera, pane.shape, x, y)


def _placed(question: asked_of_light.PlaceLight, engine: Engine, press: Press) -> Made | None:
    match question.how:
        case "throw":
            caster = question.caster
            return None if caster is None else lighting.throw(engine, press, question.light, caster)
        case "glint":
            return lighting.glint(engine, press, question.light)
        case "aim":
            return lighting.aim_at(engine, press, question.light)


def _grey(engine: Engine, press: Press) -> Made | None:
    found = relighting.by_grey_card(engine, press)
    if found is None:
        return None
    exposure, *white = found
    exposure = round(min(max(exposure - camera_stops(engine.scene.camera), -30.0), 30.0), 3)
    fields = ("exposure", "white_temperature", "white_tint")
    return Made("", "Grey card", [replaced(f"/look/{f}", v) for f, v in zip(fields, (exposure, *white), strict=True)])


def _solid(question: asked_of_light.ProfileSolid, engine: Engine) -> asked_of_light.SolidFound:
    profile = engine.compiled.profile_of(question.light)
    if profile is None:
        return asked_of_light.SolidFound(asked=question.request, planes=None, candela=0.0)
    planes, candela = profile_solid(profile)
    return asked_of_light.SolidFound(asked=question.request, planes=planes.round(4).tolist(), candela=candela)


def _histogram(asked: str, pane: Pane | None) -> asked_of_light.HistogramFound:
    shown = pane.displayed() if pane else None
    if shown is None:
        return asked_of_light.HistogramFound(asked=asked, channels=None, crushed=None, clipped=None)
    return asked_of_light.HistogramFound(asked=asked, **asdict(histogram(shown)))


def _lit(
    question: asked_of_light.LitPicture, engine: Engine, pane: Pane | None, resolve: Resolver, box: Box | None
) -> asked_of_light.Lit:
    asked, none = question.request, asked_of_light.Lit(asked=question.request, picture=None)
    scene = engine.scene
    if pane is None:
        return none
    if question.rig is not None:
        lit = rigs.with_rig(scene, question.rig, box)
    elif question.conditions in scene.conditions:
        lit = conditions.under(scene, scene.conditions[question.conditions])
    else:
        return none
    try:
        picture = relighting.lit_picture(engine, lit, pane.camera, pane.shape, resolve)
    except (OSError, ValueError):
        # A map of it cannot be had here: the shelf shows its name alone.
        return none
    if picture is None:
        return asked_of_light.Lit(asked=asked, picture=None, later=True)
    return asked_of_light.Lit(asked=asked, picture=_address(picture))


def _address(picture: np.ndarray) -> str:
    return f"data:image/jpeg;base64,{base64.b64encode(encode_jpeg(picture)).decode()}"


def _shares(asked: str, engine: Engine, pane: Pane | None) -> asked_of_light.SharesFound:
    film = None if pane is None else pane.film
    if pane is None or film is None or film.group_rows is None or pane.done == 0:
        return asked_of_light.SharesFound(asked=asked, shares=None)
    means = film.group_light(LOOKED_AT) * np.array(_factors(engine, film.group_count))
    light = np.maximum(means @ LUMINANCE, 0.0)
    total = max(float(light.sum()), 1e-30)
    names = engine.compiled.light_groups
    told = tuple(
        asked_of_light.GroupShare(group=name, share=float(light[min(number, len(light) - 1)]) / total)
        for number, name in enumerate(names)
    )
    return asked_of_light.SharesFound(asked=asked, shares=told, bytes=film.group_rows.nbytes)


def _factors(engine: Engine, count: int) -> Sequence[Sequence[float]]:
    found = engine.factors()[:count]
    return [*found, *([(1.0, 1.0, 1.0)] * (count - len(found)))]
