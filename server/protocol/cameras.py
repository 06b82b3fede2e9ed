"""What a window asks of the render host about the camera and its shots, and the answers that no other question has.

In: JSON of a question, which names itself. Out: the typed question, the answer. Part of `questions`.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.document import Camera
from lantern.scene.frames import FrameName
from lantern.scene.model import Key
from server.protocol.panes import PaneNumber
from server.protocol.parts import Message, Request

Share = Annotated[float, Field(ge=-4, le=5, allow_inf_nan=False)]
"""Of the picture's width or height; what is drawn may reach beyond it."""
Spot = tuple[Share, Share]
Line = tuple[Share, Share, Share, Share]


class StandUpright(Message):
    """Asks for the patch that keeps verticals upright by a shift of the lens, or has the camera look level."""

    type: Literal["stand_upright"]
    pane: PaneNumber
    how: Literal["shift", "level"]
    request: Request


class MeterExposure(Message):
    """Asks for the patch that exposes what a pane shows, or its loupe: its middle as grey, or its lights held."""

    type: Literal["meter_exposure"]
    pane: PaneNumber
    how: Literal["grey", "highlights"]
    request: Request


class FrameShape(Message):
    """Asks for the patch that gives the frame a shape, or a size of paper at so many dots an inch."""

    type: Literal["frame_shape"]
    pane: PaneNumber
    shape: FrameName
    upright: bool = False
    dpi: Annotated[int, Field(ge=36, le=600)] = 300
    request: Request


class KeepShot(Message):
    """Asks for the patch that keeps what a pane sees as a shot: as a new one, or in the place of one."""

    type: Literal["keep_shot"]
    pane: PaneNumber
    shot: Key | None = None
    request: Request


class CopyShot(Message):
    """Asks for a copy of a shot."""

    type: Literal["copy_shot"]
    pane: PaneNumber
    shot: Key
    request: Request


class TakeShot(Message):
    """Asks for the patch to a shot: its camera and frame, its look and conditions where it has some of its own."""

    type: Literal["take_shot"]
    pane: PaneNumber
    shot: Key
    request: Request


class ShotPicture(Message):
    """Asks for a small picture of a shot."""

    type: Literal["shot_picture"]
    pane: PaneNumber
    shot: Key
    request: Request


class FollowFocus(Message):
    """Asks for the patch by which the focus follows what a pane shows at a place; or follows nothing, without one."""

    type: Literal["follow_focus"]
    pane: PaneNumber
    at: Spot | None
    request: Request


class FocusBetween(Message):
    """Asks for the patch by which just what lies between two things that a pane shows is sharp."""

    type: Literal["focus_between"]
    pane: PaneNumber
    near: Spot
    far: Spot
    request: Request


class ExposeBy(Message):
    """Asks for the patch by which shutter and ISO expose, or EV alone; the picture stays as bright."""

    type: Literal["expose_by"]
    pane: PaneNumber
    how: Literal["shutter", "ev"]
    request: Request


class LayoutPicture(Message):
    """Asks for the drawing of the layout that is laid over the picture."""

    type: Literal["layout_picture"]
    pane: PaneNumber
    request: Request


class MatchView(Message):
    """Asks for the camera that sees two horizontal directions as they are drawn, and the asset's foot at a place."""

    type: Literal["match_view"]
    pane: PaneNumber
    along: tuple[Line, Line]
    across: tuple[Line, Line]
    foot: Spot
    request: Request


CameraQuestion = (
    StandUpright
    | MeterExposure
    | FrameShape
    | FollowFocus
    | FocusBetween
    | ExposeBy
    | MatchView
    | LayoutPicture
    | KeepShot
    | CopyShot
    | TakeShot
    | ShotPicture
)


class LayoutSeen(Message):
    """Address of the drawing; or why it cannot be seen. Both null where there is none."""

    type: Literal["layout_seen"] = "layout_seen"
    asked: str
    picture: str | None
    problem: str | None = None


class ViewMatched(Message):
    """The camera; or why there is none."""

    type: Literal["view_matched"] = "view_matched"
    asked: str
    camera: Camera | None
    problem: str | None = None


CameraAnswer = ViewMatched | LayoutSeen
