"""What a window asks of the render host about the time line. The answer is a patch.

In: JSON of a question, which names itself. Out: the typed question. Part of `questions`.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from lantern.scene.camera_moves import CameraWay
from lantern.scene.model import Key
from lantern.scene.motion import MOST_KEYS, MOST_MOVES, ValueKey
from lantern.scene.movements import Along
from server.protocol.panes import PaneNumber
from server.protocol.parts import Message, PartKey, Request

Path = Annotated[str, Field(pattern=r"^(/[^/]+)+$", max_length=500)]


class MakeTurntable(Message):
    """Asks for the patch to a whole turn over the length of the time line."""

    type: Literal["make_turntable"]
    pane: PaneNumber
    turns: Literal["camera", "asset", "light"]
    request: Request


class MakeExploded(Message):
    """Asks for the patch to parts that leave their places: those named, or all that can be seen."""

    type: Literal["make_exploded"]
    pane: PaneNumber
    along: Along
    parts: tuple[PartKey, ...] = ()
    request: Request


class MakeTravel(Message):
    """Asks for the patch by which the camera goes from one shot to another."""

    type: Literal["make_travel"]
    pane: PaneNumber
    first: Key
    last: Key
    request: Request


class MakeCameraMove(Message):
    """Asks for the patch by which the camera moves from where it is: towards what it looks at, or about it."""

    type: Literal["make_camera_move"]
    pane: PaneNumber
    way: CameraWay
    request: Request


class MakeSequence(Message):
    """Asks for the patch by which shots follow one another, cut or dissolved; the time line is as long as they are."""

    type: Literal["make_sequence"]
    pane: PaneNumber
    shots: Annotated[tuple[Key, ...], Field(min_length=2, max_length=MOST_MOVES)]
    seconds: Annotated[float, Field(gt=0, le=600)] = 3.0
    dissolve: Annotated[float, Field(ge=0, le=600)] = 0.0
    request: Request


class MakeDay(Message):
    """Asks for the patch by which the sun of a place goes through its day."""

    type: Literal["make_day"]
    pane: PaneNumber
    request: Request


class MakeClip(Message):
    """Asks for the patch by which the asset's clip is played whole, again and again, over the time line."""

    type: Literal["make_clip"]
    pane: PaneNumber
    request: Request


class MakeRelight(Message):
    """Asks for the patch by which the light goes from one kept state to another."""

    type: Literal["make_relight"]
    pane: PaneNumber
    first: Key
    last: Key
    request: Request


class ToggleKeys(Message):
    """Asks for the patch that gives places of the document a key at the moment that is shown, or takes it away."""

    type: Literal["toggle_keys"]
    pane: PaneNumber
    paths: Annotated[tuple[Path, ...], Field(min_length=1, max_length=1000)]
    request: Request


class PasteKeys(Message):
    """Asks for the patch that lays keys into a track, the first of them at the moment that is shown."""

    type: Literal["paste_keys"]
    pane: PaneNumber
    move: Key
    keys: Annotated[tuple[ValueKey, ...], Field(min_length=1, max_length=MOST_KEYS)]
    request: Request


class KeyedValues(Message):
    """Asks what the places with a track are like at the moment that is shown."""

    type: Literal["keyed_values"]
    pane: PaneNumber
    request: Request


MotionQuestion = (
    MakeTurntable
    | MakeExploded
    | MakeTravel
    | MakeCameraMove
    | MakeSequence
    | MakeDay
    | MakeClip
    | MakeRelight
    | ToggleKeys
    | PasteKeys
    | KeyedValues
)


class KeyedValuesFound(Message):
    """Values by places."""

    type: Literal["keyed_values"] = "keyed_values"
    asked: str
    values: dict[str, Any]


MotionAnswer = KeyedValuesFound
