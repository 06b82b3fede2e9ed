"""Messages between a browser window and the web side, unions told apart by `type`; described in `docs/protocol.md`."""

import json
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError, WithJsonSchema

from server.errors import Refused
from server.protocol.panes import PaneNumber, PaneState
from server.protocol.parts import Label, Message, Number, Patch, Request
from server.protocol.questions import Answer, Question
from server.protocol.takes import FilmOpened, Reopen, Take, TakeKept

LARGEST_MESSAGE = 2 << 20
"""Characters of a message from a browser."""

# From the browser


class PaneMessage(PaneState):
    type: Literal["pane"]


class ClosePane(Message):
    type: Literal["close_pane"]
    pane: PaneNumber


class Run(Message):
    type: Literal["run"]
    running: bool


class Shown(Message):
    type: Literal["shown"]


class Preview(Message):
    type: Literal["preview"]
    patch: Patch
    serial: Number


class Edit(Message):
    type: Literal["edit"]
    patch: Annotated[Patch, Field(min_length=1)]
    label: Label = ""
    request: Request
    base: Number | None = None


class UndoMessage(Message):
    type: Literal["undo"]
    request: Request


class RedoMessage(Message):
    type: Literal["redo"]
    request: Request


FromBrowser = Annotated[
    PaneMessage | ClosePane | Run | Shown | Preview | Edit | UndoMessage | RedoMessage | Take | Reopen | Question,
    Field(discriminator="type"),
]
_FROM_BROWSER: TypeAdapter[FromBrowser] = TypeAdapter(FromBrowser)


class Unreadable(Refused):
    """A message is not one of the protocol; `request` is the name of what was asked, where it had one."""

    def __init__(self, message: str, request: str | None) -> None:
        super().__init__(message)
        self.request = request


def read_message(text: str) -> FromBrowser:
    """A message of a browser. Raises Unreadable with the field that is wrong, whatever the text is."""
    if len(text) > LARGEST_MESSAGE:
        raise Unreadable(f"A message has at most {LARGEST_MESSAGE} characters, not {len(text)}.", None)
    try:
        return _FROM_BROWSER.validate_json(text)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        path = "/".join(str(step) for step in first["loc"]) or "message"
        raise Unreadable(f"{path}: {first['msg']} (got {first['input']!r:.80})", _request_of(text)) from error


def _request_of(text: str) -> str | None:
    try:
        request = json.loads(text).get("request")
    except (ValueError, AttributeError, RecursionError):
        return None
    return request[:64] if isinstance(request, str) else None


# To the browser

SceneData = Annotated[dict[str, Any], WithJsonSchema({"type": "object", "title": "Scene"})]
"""A document as JSON data: it was read before it was stored."""


class DocumentMessage(Message):
    type: Literal["document"] = "document"
    revision: int
    scene: SceneData
    can_undo: bool
    can_redo: bool


class Edited(Message):
    """The document has changed from the revision before this one by a patch."""

    type: Literal["edited"] = "edited"
    revision: int
    patch: Patch
    can_undo: bool
    can_redo: bool


class Committed(Message):
    type: Literal["committed"] = "committed"
    request: str
    revision: int


class RefusedMessage(Message):
    type: Literal["refused"] = "refused"
    message: str
    request: str | None = None


HostStateName = Literal["starting", "waiting", "ready", "resting", "restarting", "failed"]


class HostState(Message):
    type: Literal["host"] = "host"
    state: HostStateName


class Running(Message):
    type: Literal["running"] = "running"
    running: bool


class Status(Message):
    """How far the proof of a pane is."""

    type: Literal["status"] = "status"
    pane: int
    samples: int
    wanted: int
    settled: bool
    running: bool
    rests: bool
    """It makes room for a print while nobody touches it."""
    width: int
    height: int
    noise: float | None
    seconds: float
    seconds_left: float
    rays_per_second: float
    dropped_samples: int
    limited_samples: int
    memory_mib: int


class Scale(Message):
    """What the false colours of a pane mean: each decade in cd/m², or in lx, with its colour."""

    type: Literal["scale"] = "scale"
    pane: int
    unit: Literal["cd/m²", "lx"]
    ticks: list[tuple[float, str]]


class Opened(Message):
    """What the document holds; `compiled` counts what the compiler did. Clips and cameras are those of the file."""

    type: Literal["opened"] = "opened"
    parts: int
    triangles: int
    unique_triangles: int
    moves: bool
    clips: list[str]
    cameras: list[str]
    compiled: dict[str, int]


class Problems(Message):
    type: Literal["problems"] = "problems"
    problems: list[str]


class ErrorMessage(Message):
    type: Literal["error"] = "error"
    message: str


class Swatch(Message):
    type: Literal["swatch"] = "swatch"
    material: str
    picture: str


ToBrowser = (
    DocumentMessage
    | Edited
    | Committed
    | RefusedMessage
    | HostState
    | Running
    | Status
    | Scale
    | Opened
    | Problems
    | ErrorMessage
    | Swatch
    | TakeKept
    | FilmOpened
    | Answer
)
