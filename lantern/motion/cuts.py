"""Moves that follow one another: which of them counts at a moment.

In: the moves of a document, a moment. Out: the one that has the camera, the light or the clip then. Called by `moving`,
`dissolving`, `relighting` and `clips`.
"""

from collections.abc import Iterable, Mapping

from lantern.scene.motion import AnyMove, Move, Travel

SAME_MOMENT = 1e-9
"""Seconds: the rounding of the time of a frame."""


def begun_last(moves: Iterable[tuple[str, Move]], time: float) -> str | None:
    """Of moves by their keys that which has begun last at a moment [s]; before all, the first; None of none.

    Of several that begin together it is the last in the list.
    """
    there = [(move.start, place, key) for place, (key, move) in enumerate(moves)]
    if not there:
        return None
    begun = [each for each in there if each[0] <= time + SAME_MOMENT]
    return max(begun)[2] if begun else min(there, key=lambda each: (each[0], -each[1]))[2]


def on_screen(moves: Mapping[str, AnyMove], shots: Mapping[str, object], time: float) -> str | None:
    """The travel that has the camera at a moment [s], of those that are on and whose shots are there."""
    there = (
        (key, move)
        for key, move in moves.items()
        if isinstance(move, Travel) and move.enabled and move.first in shots and move.last in shots
    )
    return begun_last(there, time)
