"""Keeping a take: what a window asks, what the web side asks its host for, and what comes back.

In: JSON. Out: typed messages. Used by `browser` (the window's side) and `host` (the render host's).
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from server.protocol.panes import PaneNumber
from server.protocol.parts import Message, Request


class Take(Message):
    """Keep the picture of a pane as it is, with the document that it shows."""

    type: Literal["take"]
    pane: PaneNumber
    reason: Literal["kept", "print", "restore"] = "kept"
    note: Annotated[str, Field(max_length=4000)] = ""
    request: Request


class TakeKept(Message):
    """It is kept, by this number."""

    type: Literal["take_kept"] = "take_kept"
    asked: str
    take: int


class Still(Message):
    """Asks the host for the picture of a pane as it is now, all of it, lossless."""

    type: Literal["still"] = "still"
    pane: PaneNumber
    request: Request


class StillFound(Message):
    """The picture as PNG in base64, if there is one yet; how far it has come, and by which camera it is seen."""

    type: Literal["still_found"] = "still_found"
    asked: str
    png: str | None = None
    samples: int = 0
    noise: float | None = None
    camera: dict[str, Any] | None = None
    scene: dict[str, Any] | None = None
    """The document that is shown, where the pane shows that of the project under something else."""
