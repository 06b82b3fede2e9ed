"""What a window asks of the render host about light, and the answers that no other question has.

In: JSON of a question, which names itself. Out: the typed question, the answer. Part of `questions`.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.fields import Vector
from lantern.scene.model import FileRef, Key
from lantern.scene.rigs import Rig
from server.protocol.panes import PaneNumber
from server.protocol.parts import Label, Message, Place, Request

LightKind = Literal["rectangle", "disk", "sphere", "tube", "point", "spot", "directional"]
CardShape = Literal["rectangle", "round", "ring", "strip", "window", "image"]


class Grip(Message):
    """Asks which light's shadow lies at a point of the picture, and what throws it: of one light, or of any."""

    type: Literal["grip"]
    pane: PaneNumber
    x: Place
    y: Place
    light: Key | None = None
    request: Request


class PlaceLight(Message):
    """Asks for the patch that puts a light, a card or the sun so that something falls at a point of the picture.

    Its shadow of `caster` (`throw`), its highlight (`glint`), or its aim.
    """

    type: Literal["place_light"]
    pane: PaneNumber
    x: Place
    y: Place
    light: Key
    how: Literal["throw", "glint", "aim"]
    caster: Vector | None = None
    request: Request


class LightFromHere(Message):
    """Asks for a new light where the camera of a pane is."""

    type: Literal["light_from_here"]
    pane: PaneNumber
    kind: LightKind
    request: Request


class CopyLight(Message):
    """Asks for a copy of a light, where it is or on the other side of the asset."""

    type: Literal["copy_light"]
    pane: PaneNumber
    light: Key
    mirrors: bool = False
    request: Request


class MakeCard(Message):
    """Asks for a card whose reflection is seen at a point of the picture, or somewhere above without one."""

    type: Literal["make_card"]
    pane: PaneNumber
    shape: CardShape
    at: tuple[Place, Place] | None = None
    request: Request


class LightBy(Message):
    """Asks for the patch that lights the scene by a map, or by even light.

    With its mean luminance [cd/m²] the exposure is moved so that the picture stays as bright.
    """

    type: Literal["light_by"]
    pane: PaneNumber
    map: FileRef | None = None
    name: Label = ""
    luminance: Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False)] | None = None
    request: Request


class SwitchSky(Message):
    """Asks for the patch that lights the scene by its sky, or again by what was there before.

    Where it `keeps` the brightness, the exposure is moved by as much as the light.
    """

    type: Literal["switch_sky"]
    pane: PaneNumber
    on: bool
    keeps: bool = True
    request: Request


class ProfileSolid(Message):
    """Asks for the shape of a light's measured distribution."""

    type: Literal["profile_solid"]
    pane: PaneNumber
    light: Key
    request: Request


class Unrolled(Message):
    """Asks for a picture of the map that is all around, its cards on it, unturned."""

    type: Literal["unrolled"]
    pane: PaneNumber
    request: Request


class KeepConditions(Message):
    """Asks for the patch that keeps the present light as conditions: new ones, or in the place of those of a key."""

    type: Literal["keep_conditions"]
    pane: PaneNumber
    conditions: Key | None = None
    request: Request


class TakeConditions(Message):
    """Asks for the patch to conditions that are kept."""

    type: Literal["take_conditions"]
    pane: PaneNumber
    conditions: Key
    request: Request


class TakeRig(Message):
    """Asks for the patch that lights the asset by a rig, in the place of what lights it, or besides."""

    type: Literal["take_rig"]
    pane: PaneNumber
    rig: Rig
    adds: bool = False
    request: Request


class TurnLights(Message):
    """Asks for the patch that turns all light about the asset by degrees, and makes it brighter by stops."""

    type: Literal["turn_lights"]
    pane: PaneNumber
    degrees: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    stops: Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)] = 0.0
    request: Request


class KeepRig(Message):
    """Asks for the light of the document as a rig."""

    type: Literal["keep_rig"]
    pane: PaneNumber
    name: Label
    request: Request


class LitPicture(Message):
    """Asks for a small picture of this shot under other light: conditions of the document, or a rig."""

    type: Literal["lit_picture"]
    pane: PaneNumber
    conditions: Key | None = None
    rig: Rig | None = None
    request: Request


class BoxHaze(Message):
    """Asks for the patch that holds haze in a box around what is visible, or lets it be everywhere."""

    type: Literal["box_haze"]
    pane: PaneNumber
    on: bool
    request: Request


class BakeBalance(Message):
    """Asks for the patch that gives the lights what the faders say."""

    type: Literal["bake_balance"]
    pane: PaneNumber
    request: Request


class LightShares(Message):
    """Asks how much of the light in the picture each light group brings."""

    type: Literal["light_shares"]
    pane: PaneNumber
    request: Request


class Meter(Message):
    """Asks what a spot meter reads at a point of the picture, and what a lux meter held there."""

    type: Literal["meter"]
    pane: PaneNumber
    x: Place
    y: Place
    request: Request


class HistogramWanted(Message):
    """Asks how often each brightness is in the picture that a pane shows."""

    type: Literal["histogram"]
    pane: PaneNumber
    request: Request


class GreyCard(Message):
    """Asks for the patch by which what is at a point of the picture becomes a neutral 18 % grey."""

    type: Literal["grey_card"]
    pane: PaneNumber
    x: Place
    y: Place
    request: Request


class SunDay(Message):
    """Asks for the way of the sun on the day of the document's place."""

    type: Literal["sun_day"]
    pane: PaneNumber
    request: Request


LightQuestion = (
    Grip
    | PlaceLight
    | LightFromHere
    | CopyLight
    | MakeCard
    | LightBy
    | SwitchSky
    | Unrolled
    | ProfileSolid
    | KeepConditions
    | TakeConditions
    | TakeRig
    | TurnLights
    | KeepRig
    | LitPicture
    | BoxHaze
    | BakeBalance
    | LightShares
    | Meter
    | HistogramWanted
    | GreyCard
    | SunDay
)


class Shadow(Message):
    """Whose shadow it is, "sun" for the sky's sun, and the point that throws it [m]."""

    light: str
    caster: tuple[float, float, float]


class Gripped(Message):
    """Null where no light is kept away."""

    type: Literal["gripped"] = "gripped"
    asked: str
    shadow: Shadow | None


class RigMade(Message):
    type: Literal["rig"] = "rig"
    asked: str
    rig: Rig | None


class Lit(Message):
    """Address of a picture; null where there is none to be had, or none yet: something else was wanted meanwhile."""

    type: Literal["lit"] = "lit"
    asked: str
    picture: str | None
    later: bool = False


class GroupShare(Message):
    """A light group: its share [0, 1] of the luminance of the picture."""

    group: str
    share: float


class SharesFound(Message):
    """Null before the picture has samples; `bytes` is the memory that telling the groups apart takes."""

    type: Literal["shares"] = "shares"
    asked: str
    shares: tuple[GroupShare, ...] | None
    bytes: int = 0


class MeterFound(Message):
    """Luminance [cd/m²], exposure value at ISO 100 (ISO 2720, K 12.5), illuminance [lx]; null where nothing is."""

    type: Literal["meter"] = "meter"
    asked: str
    luminance: float | None
    ev: float | None
    illuminance: float | None


class HistogramFound(Message):
    """Shares of the pixels in 64 ranges of display values of red, green and blue; of those at black and at white.

    All null before there is a picture.
    """

    type: Literal["histogram"] = "histogram"
    asked: str
    channels: tuple[tuple[float, ...], ...] | None
    crushed: tuple[float, ...] | None
    clipped: tuple[float, ...] | None


class SolidFound(Message):
    """Half planes of places [share of the largest intensity] across, along and forward of a light; that in cd.

    Null for a light that has no distribution.
    """

    type: Literal["solid"] = "solid"
    asked: str
    planes: tuple[tuple[tuple[float, float, float], ...], ...] | None
    candela: float


class SunDayFound(Message):
    """Hours with the unit directions of the sun; empty where the sun is put by hand."""

    type: Literal["sun_day"] = "sun_day"
    asked: str
    day: tuple[tuple[float, tuple[float, float, float]], ...]


LightAnswer = Gripped | RigMade | Lit | SharesFound | MeterFound | HistogramFound | SolidFound | SunDayFound
