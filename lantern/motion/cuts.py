"""Shots one after the other: which has the camera at a moment.

In: the moves of a document, a moment. Out: the move of the camera that counts then. Called by `moving` and
`dissolving`.
"""

from collections.abc import Mapping

from lantern.scene.motion import AnyMove, Travel

SAME_MOMENT = 1e-9
"""Seconds: the rounding of the time of a frame."""


def on_screen(moves: Mapping[str, AnyMove], shots: Mapping[str, object], time: float) -> str | None:
    """The travel that has the camera at a moment [s]: of those that have begun the latest; before all, the first.

    Of several that begin together it is the last in the list.
    """
    there = [
        (move.start, place, key)
        for place, (key, move) in enumerate(moves.items())
        if isinstance(move, Travel) and move.enabled and move.first in shots and move.last in shots
    ]
    if not there:
        return None
    begun = [each for each in there if each[0] <= time + SAME_MOMENT]
    return max(begun)[2] if begun else min(there, key=lambda each: (each[0], -each[1]))[2]
