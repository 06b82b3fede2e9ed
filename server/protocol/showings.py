"""Messages between the page of a showing and the web side; described in `docs/protocol.md`.

Beside them go the pictures of a live view, as `frames` packs them.
"""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from server.protocol.browser import Shown
from server.protocol.parts import Message, Number

LARGEST_SIDE = 1280
"""Pixels of a live picture: it shares the machine with those who work on it."""
SMALLEST_SIDE = 64


class Around(Message):
    """From where a slide is seen, beside from its shot."""

    azimuth: float = Field(0.0, ge=0.0, lt=360.0)
    """Degrees, to the right about what the shot looks at."""
    raised: float = Field(0.0, ge=-90.0, le=90.0)
    """Degrees above it."""
    closer: float = Field(1.0, ge=0.25, le=4.0)
    """Times as near."""


FROM_THE_SHOT = Around()


class LookAround(Message):
    """What the page wants to see live. A page that wants it no more says `Rest`."""

    type: Literal["look"] = "look"
    slide: Number
    around: Around = FROM_THE_SHOT
    serial: Number
    width: int = Field(ge=SMALLEST_SIDE, le=LARGEST_SIDE)
    """Pixels that the picture may fill."""
    height: int = Field(ge=SMALLEST_SIDE, le=LARGEST_SIDE)


class Rest(Message):
    """The page shows prepared pictures again."""

    type: Literal["rest"] = "rest"


class Lead(Message):
    """Whoever leads shows this to all."""

    type: Literal["lead"] = "lead"
    slide: Number
    around: Around = FROM_THE_SHOT
    beside: Number | None = None
    """A second slide, beside the first."""
    live: Number | None = None
    """Serial of the first live picture that shows it; None for prepared ones."""


class Release(Message):
    """Whoever has led leads no more: all look at what they like."""

    type: Literal["release"] = "release"


FromVisitor = Annotated[LookAround | Rest | Shown | Lead | Release, Field(discriminator="type")]
FROM_VISITOR: TypeAdapter[FromVisitor] = TypeAdapter(FromVisitor)
LARGEST_FROM_VISITOR = 2_000
"""Characters."""


class Led(Message):
    """What is shown by whoever leads; with `live`, the live pictures of that serial and later ones are theirs."""

    type: Literal["led"] = "led"
    slide: int
    around: Around
    beside: int | None
    live: int | None


class Free(Message):
    """Nobody leads."""

    type: Literal["free"] = "free"


class Viewers(Message):
    """How many look, for whoever may lead."""

    type: Literal["viewers"] = "viewers"
    count: int


class Live(Message):
    """How it stands with the live view that a page has asked for; without it prepared pictures are shown."""

    type: Literal["live"] = "live"
    state: Literal["starting", "on", "busy"]


ToVisitor = Led | Free | Viewers | Live
