"""Messages between the page of a showing and the web side; described in `docs/protocol.md`."""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from server.protocol.parts import Message, Number


class Lead(Message):
    """Whoever leads shows this to all."""

    type: Literal["lead"] = "lead"
    slide: Number
    turn: Annotated[int, Field(ge=0, lt=360, strict=True)] = 0
    beside: Number | None = None
    """A second slide, beside the first."""


class Release(Message):
    """Whoever has led leads no more: all look at what they like."""

    type: Literal["release"] = "release"


FromVisitor = Annotated[Lead | Release, Field(discriminator="type")]
FROM_VISITOR: TypeAdapter[FromVisitor] = TypeAdapter(FromVisitor)
LARGEST_FROM_VISITOR = 2_000
"""Characters."""


class Led(Message):
    """What is shown by whoever leads."""

    type: Literal["led"] = "led"
    slide: int
    turn: int
    beside: int | None


class Free(Message):
    """Nobody leads."""

    type: Literal["free"] = "free"


class Viewers(Message):
    """How many look, for whoever may lead."""

    type: Literal["viewers"] = "viewers"
    count: int


ToVisitor = Led | Free | Viewers
