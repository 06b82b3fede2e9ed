"""What a window asks of the render host about brand colours, and the answers that no other question has.

In: JSON of a question, which names itself. Out: the typed question, the answer. Part of `questions`.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.model import Key
from server.protocol.panes import PaneNumber
from server.protocol.parts import Label, Message, PartKey, Request

LARGEST_TEXT = 1_000_000
"""Characters of a file of colours."""


class ReadBrand(Message):
    """Asks for the patch to brand colours that a text says: a colour, a spectrum, or the text of a CxF file."""

    type: Literal["read_brand"]
    pane: PaneNumber
    text: Annotated[str, Field(max_length=LARGEST_TEXT)]
    name: Label = ""
    parts: tuple[PartKey, ...] = ()
    request: Request


class Fidelity(Message):
    """Asks how near parts come to a brand colour: as it is, or under an edition and conditions."""

    type: Literal["fidelity"]
    pane: PaneNumber
    brand: Key
    edition: Key | None = None
    conditions: Key | None = None
    request: Request


class NearestBase(Message):
    """Asks for the patch to the base colour by which parts come nearest to a brand colour."""

    type: Literal["nearest_base"]
    pane: PaneNumber
    brand: Key
    request: Request


FidelityQuestion = ReadBrand | Fidelity | NearestBase


class FidelityFound(Message):
    """CIEDE2000 from the brand colour; None of what is not known, because too little is seen."""

    type: Literal["fidelity_found"] = "fidelity_found"
    asked: str
    typical: float | None = None
    """In this light, with this look: half of the pixels are nearer."""
    worst: float | None = None
    """95 % of them are nearer."""
    even: float | None = None
    """In even light."""
    later: bool = False
    """Something else was wanted meanwhile: it can be asked again."""
    problem: str = ""
    """Why it cannot be had: what does not go together, or is gone."""


FidelityAnswer = FidelityFound
