"""Moves that follow one another: which of them counts at a moment.

In: the moves of a document, a moment. Out: the one that has the camera, the light or the clip then. Called by `moving`,
`dissolving` and `clips`.
"""

from collections.abc import Iterable, Mapping

from lantern.scene.motion import AnyMove, Move, Relight, Travel

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


def leading(
    moves: Mapping[str, AnyMove], kind: type[Travel] | type[Relight], ends: Mapping[str, object], time: float
) -> str | None:
    """Of moves of a kind that go from one thing to another, are on and whose `ends` are there, that of a moment [s]."""
    there = (
        (key, move)
        for key, move in moves.items()
        if isinstance(move, kind) and move.enabled and move.first in ends and move.last in ends
    )
    return begun_last(there, time)


def on_screen(moves: Mapping[str, AnyMove], shots: Mapping[str, object], time: float) -> str | None:
    """The travel that has the camera at a moment [s]."""
    return leading(moves, Travel, shots, time)
