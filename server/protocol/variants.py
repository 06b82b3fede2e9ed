"""What a window asks of the render host about variants and editions, and the answers that no other question has.

In: JSON of a question, which names itself. Out: the typed question, the answer. Part of `questions`.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.model import Key
from server.protocol.panes import MOST_SELECTED, PaneNumber
from server.protocol.parts import Message, Request


class BeginVariants(Message):
    """Asks for the patch to a group of variants, the first of which is what is there."""

    type: Literal["begin_variants"]
    pane: PaneNumber
    request: Request


class TakeVariant(Message):
    """Asks for the patch to a variant of a group."""

    type: Literal["take_variant"]
    pane: PaneNumber
    group: Key
    variant: Key
    request: Request


class TakeDefaults(Message):
    """Asks for the patch to the default of each group that has one."""

    type: Literal["take_defaults"]
    pane: PaneNumber
    request: Request


class RewriteVariant(Message):
    """Asks for the patch that takes what was changed under a variant into it, or into all of its group."""

    type: Literal["rewrite_variant"]
    pane: PaneNumber
    group: Key
    everywhere: bool
    request: Request


class KeepEdition(Message):
    """Asks for the patch that keeps the variants that are on as an edition."""

    type: Literal["keep_edition"]
    pane: PaneNumber
    request: Request


class TakeEdition(Message):
    """Asks for the patch to an edition; worn by copies alone, if some are named."""

    type: Literal["take_edition"]
    pane: PaneNumber
    edition: Key
    copies: Annotated[tuple[Key, ...], Field(max_length=MOST_SELECTED)] = ()
    request: Request


class EditionPicture(Message):
    """Asks for a small picture of an edition."""

    type: Literal["edition_picture"]
    pane: PaneNumber
    edition: Key
    request: Request


class VariantsStanding(Message):
    """Asks what is on, what was changed under it, what does not go with it, and how many combinations there are."""

    type: Literal["variants_standing"]
    pane: PaneNumber
    request: Request


VariantQuestion = (
    BeginVariants
    | TakeVariant
    | TakeDefaults
    | RewriteVariant
    | KeepEdition
    | TakeEdition
    | EditionPicture
    | VariantsStanding
)


class StandingFound(Message):
    """`changed` are groups under whose variant something was changed; `against` are variants, as group and variant,
    that do not go with those of the other groups. `words` say what a variant changes, by group and variant.
    `allowed` of `combinations` go together.
    """

    type: Literal["variants_standing"] = "variants_standing"
    asked: str
    edition: Key | None
    changed: tuple[Key, ...]
    against: tuple[tuple[Key, Key], ...]
    words: dict[Key, dict[Key, tuple[str, ...]]]
    combinations: int
    allowed: int


VariantAnswer = StandingFound
