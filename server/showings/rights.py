"""What visitors of a showing may do beside looking."""

from typing import Literal

Right = Literal["turn", "live", "switch", "compare", "comment"]
RIGHTS: dict[Right, str] = {
    "switch": "switch between pictures",
    "compare": "compare two",
    "turn": "turn it in prepared pictures",
    "live": "turn it freely, in pictures made at once",
    "comment": "comment and choose",
}
"""Rights, in words that follow "visitors may"."""
TURNS = 24
"""Pictures of a ring."""
QUALITIES = {"Quick": 8, "Good": 32, "Fine": 128}
"""Samples of a picture, by what that is called."""
MOST_PICTURES = 600
"""Of one showing, those of the rings among them."""


def frames_of(rights: list[Right]) -> int:
    """Pictures that a slide needs."""
    return TURNS if "turn" in rights else 1
