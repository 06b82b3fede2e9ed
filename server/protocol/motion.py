"""What a window asks of the render host about the time line. The answer is a patch.

In: JSON of a question, which names itself. Out: the typed question. Part of `questions`.
"""

from typing import Literal

from lantern.scene.model import Key
from lantern.scene.movements import Along
from server.protocol.panes import PaneNumber
from server.protocol.parts import Message, PartKey, Request


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


class MakeDay(Message):
    """Asks for the patch by which the sun of a place goes through its day."""

    type: Literal["make_day"]
    pane: PaneNumber
    request: Request


MotionQuestion = MakeTurntable | MakeExploded | MakeTravel | MakeDay
