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
    film: bool = False
    """Whether its film is kept as well, so that the picture can be gone on with."""
    request: Request


class Reopen(Message):
    """Go on with the film of a take in a pane that shows the same again."""

    type: Literal["reopen"]
    pane: PaneNumber
    take: Annotated[int, Field(ge=1, lt=1 << 63, strict=True)]
    request: Request


class TakeKept(Message):
    """It is kept, by this number; and why its film is not, if it was to be."""

    type: Literal["take_kept"] = "take_kept"
    asked: str
    take: int
    problem: str = ""


class Still(Message):
    """Asks the host for the picture of a pane as it is now, all of it, lossless."""

    type: Literal["still"] = "still"
    pane: PaneNumber
    film_to: str | None = None
    """Path of a file that its film is to be written to."""
    request: Request


class OpenFilm(Message):
    """Asks the host to go on with a film that was kept in a file."""

    type: Literal["open_film"] = "open_film"
    pane: PaneNumber
    path: str
    request: Request


class FilmOpened(Message):
    """How many samples the pane goes on from, or why it does not."""

    type: Literal["film_opened"] = "film_opened"
    asked: str
    samples: int = 0
    problem: str = ""


class StillFound(Message):
    """The picture as PNG in base64, if there is one yet; how far it has come, and by which camera it is seen."""

    type: Literal["still_found"] = "still_found"
    asked: str
    png: str | None = None
    samples: int = 0
    noise: float | None = None
    camera: dict[str, Any] | None = None
    look: dict[str, Any] | None = None
    """The look that it is seen with, where the pane has one of its own."""
    scene: dict[str, Any] | None = None
    """The document that is shown, where the pane shows that of the project under something else."""
    problem: str = ""
    """Why its film was not written."""


HostQuestion = Still | OpenFilm
"""What the web side asks a host on behalf of a window."""
HostAnswer = StillFound | FilmOpened
