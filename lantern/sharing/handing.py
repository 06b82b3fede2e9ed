"""Which piece a machine that has nothing to do takes next.

In: the pieces that are not done and who holds them since when, the speed of who asks. Out: the number of a piece.
Called by every machine that works on a print.
"""

from collections.abc import Iterable
from dataclasses import dataclass

MOST_HOLDERS = 2
"""Machines that make the same piece at the same time: the first that is done with it counts."""


@dataclass(frozen=True)
class Holder:
    """A machine that makes a piece: since when [s], and how much it does in a second."""

    since: float
    speed: float


@dataclass(frozen=True)
class OpenPiece:
    """A piece that is not done."""

    number: int
    cost: float
    holders: tuple[Holder, ...] = ()


def next_piece(pieces: Iterable[OpenPiece], now: float, speed: float) -> int | None:
    """The dearest piece that nobody holds; else the one that will be done last, if who asks would be done before.

    None when everything is held by machines that will be as quick.
    """
    waiting: list[OpenPiece] = []
    held: list[OpenPiece] = []
    for piece in pieces:
        (held if piece.holders else waiting).append(piece)
    if waiting:
        return max(waiting, key=lambda piece: (piece.cost, -piece.number)).number
    late = [
        (end, piece.number)
        for piece in held
        if len(piece.holders) < MOST_HOLDERS
        and (end := min(_end(piece, holder, now) for holder in piece.holders)) > now + piece.cost / speed
    ]
    return max(late)[1] if late else None


def _end(piece: OpenPiece, holder: Holder, now: float) -> float:
    """When a holder is expected to be done [s]; one that is late is expected to need as long again as it is late."""
    expected = holder.since + piece.cost / holder.speed
    return expected if expected > now else 2 * now - expected
