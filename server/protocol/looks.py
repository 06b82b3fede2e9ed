"""What a window asks of the render host about looks, and the answers that no other question has.

In: JSON of a question, which names itself. Out: the typed question, the answer. Part of `questions`.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.look import Look
from server.protocol.panes import PaneNumber
from server.protocol.parts import Message, PartKey, Request

Amount = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
LookName = Annotated[str, Field(min_length=1, max_length=200)]


class LookPicture(Message):
    """Asks for a small picture of what a pane shows, with another look on the same light; no ray is traced."""

    type: Literal["look_picture"]
    pane: PaneNumber
    look: Look
    request: Request


class TakeLook(Message):
    """Asks for the patch that takes a look, as much of it as is said; exposure and white balance stay."""

    type: Literal["take_look"]
    pane: PaneNumber
    name: LookName
    look: Look
    amount: Amount = 1.0
    request: Request


class KeepLook(Message):
    """Asks for the look of the document as a shelf keeps it."""

    type: Literal["keep_look"]
    pane: PaneNumber
    name: LookName
    request: Request


class MakeLocal(Message):
    """Asks for a grade of a new place of the picture."""

    type: Literal["make_local"]
    pane: PaneNumber
    kind: Literal["gradient", "ellipse", "parts"]
    parts: tuple[PartKey, ...] = Field((), max_length=2000)
    request: Request


class ScopesWanted(Message):
    """Asks for the waveform and the vectorscope of what a pane shows."""

    type: Literal["scopes"]
    pane: PaneNumber
    request: Request


class TransformNames(Message):
    """Asks for what the look's own configuration has to choose from."""

    type: Literal["transform_names"]
    pane: PaneNumber
    request: Request


LookQuestion = LookPicture | TakeLook | KeepLook | MakeLocal | ScopesWanted | TransformNames


class LookSeen(Message):
    """Address of a small picture of a look or a shot; null before there is one."""

    type: Literal["look_seen"] = "look_seen"
    asked: str
    picture: str | None
    later: bool = False
    """There is none yet: it can be had when asked for again."""


class LookKept(Message):
    """Null before there is a document."""

    type: Literal["look_kept"] = "look_kept"
    asked: str
    look: Look | None


class ScopesFound(Message):
    """Addresses of the pictures of the scopes; null before there is a picture."""

    type: Literal["scopes"] = "scopes"
    asked: str
    waveform: str | None
    vectorscope: str | None


class NamesFound(Message):
    """Views by display, and looks; null where there is no configuration of one's own."""

    type: Literal["transform_names"] = "transform_names"
    asked: str
    displays: dict[str, list[str]] | None
    looks: list[str] = Field(default_factory=list)


LookAnswer = LookSeen | LookKept | ScopesFound | NamesFound
