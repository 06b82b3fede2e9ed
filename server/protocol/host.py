"""Messages between the web side and a render host, unions told apart by `type`; pictures go beside them as bytes.

The host holds the committed document and the edits in hand of every seat, and lays these over it itself: the web side
never applies one.
"""

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from server.protocol.browser import ErrorMessage, Opened, Problems, Scale, Status
from server.protocol.panes import PaneState
from server.protocol.parts import Message, Number, Patch
from server.protocol.questions import Answer, Question
from server.protocol.takes import HostAnswer, HostQuestion

Paths = dict[str, str]
"""Where files lie, by SHA-256: of those that the message names for the first time."""

# To the host


class WholeDocument(Message):
    type: Literal["document"] = "document"
    scene: dict[str, Any]
    revision: Number
    paths: Paths


class Changed(Message):
    """The committed document has changed; the seat that did it, if one did, has nothing in hand any more."""

    type: Literal["changed"] = "changed"
    patch: Patch
    revision: Number
    paths: Paths
    released: int | None = None


class InHand(Message):
    """An edit that a seat shows and has not committed; an empty one lets go."""

    type: Literal["in_hand"] = "in_hand"
    seat: int
    patch: Patch
    serial: Number
    paths: Paths = Field(default_factory=dict)


class PaneOfSeat(Message):
    """What a pane shows; `budget` is how many bytes its picture may have, where the line is slow."""

    type: Literal["pane"] = "pane"
    seat: int
    state: PaneState
    budget: int | None
    paths: Paths = Field(default_factory=dict)
    """Of files that a look of its own names."""

    @property
    def name(self) -> str:
        """The pane's name towards the web side."""
        return pane_name(self.seat, self.state.pane)


class Drop(Message):
    type: Literal["drop"] = "drop"
    pane: str


class Leave(Message):
    """A seat is empty: what it had in hand is gone."""

    type: Literal["leave"] = "leave"
    seat: int


class Budget(Message):
    type: Literal["budget"] = "budget"
    pane: str
    bytes: int


class RunProof(Message):
    type: Literal["run"] = "run"
    running: bool


class SharedMachine(Message):
    """Whether a print is being made on this machine."""

    type: Literal["share"] = "share"
    printing: bool


class SwatchesKnown(Message):
    """Digests of what the swatches show that an earlier host has made, by material."""

    type: Literal["swatches"] = "swatches"
    made: dict[str, str]


class Ask(Message):
    """A question about a pane; the answer carries the number."""

    type: Literal["ask"] = "ask"
    number: int
    pane: str
    question: Annotated[Question | HostQuestion, Field(discriminator="type")]


class Ping(Message):
    type: Literal["ping"] = "ping"


ToHost = Annotated[
    WholeDocument
    | Changed
    | InHand
    | PaneOfSeat
    | Drop
    | Leave
    | Budget
    | RunProof
    | SharedMachine
    | SwatchesKnown
    | Ask
    | Ping,
    Field(discriminator="type"),
]
TO_HOST: TypeAdapter[ToHost] = TypeAdapter(ToHost)


def pane_name(seat: int, pane: int) -> str:
    """Name of a pane of a seat."""
    return f"{seat}.{pane}"


# From the host


class Born(Message):
    """The first message: the number of the process."""

    type: Literal["born"] = "born"
    pid: int


class Pong(Message):
    """The host lives; its loop has been at one thing, a `step` or a `document`, for so many seconds."""

    type: Literal["pong"] = "pong"
    doing: Literal["step", "document", "waiting"]
    seconds: float


class Picture(Message):
    """A picture follows as bytes, as `frames` packs it."""

    type: Literal["picture"] = "picture"
    pane: str
    kind: Literal["frame", "overlay"]


class PaneSaid(Message):
    type: Literal["pane_said"] = "pane_said"
    pane: str
    message: Annotated[Status | Scale | ErrorMessage, Field(discriminator="type")]


class Said(Message):
    """About the document, for everybody."""

    type: Literal["said"] = "said"
    message: Annotated[Opened | Problems | ErrorMessage, Field(discriminator="type")]


class SwatchMade(Message):
    """The picture of a material follows as JPEG."""

    type: Literal["swatch"] = "swatch"
    material: str
    digest: str


class Answered(Message):
    type: Literal["answered"] = "answered"
    number: int
    answer: Annotated[Answer | HostAnswer, Field(discriminator="type")]


class Unfit(Message):
    """The edit in hand of a seat does not fit the document, and was let go."""

    type: Literal["unfit"] = "unfit"
    seat: int
    message: str


FromHost = Annotated[
    Born | Pong | Picture | PaneSaid | Said | SwatchMade | Answered | Unfit, Field(discriminator="type")
]
FROM_HOST: TypeAdapter[FromHost] = TypeAdapter(FromHost)
