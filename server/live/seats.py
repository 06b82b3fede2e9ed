"""The views of a session: who looks, what each wants to see, and which edit each has in hand."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Protocol

from server.protocol.browser import ToBrowser
from server.protocol.host import InHand, PaneOfSeat, pane_name
from server.protocol.panes import PaneState


class View(Protocol):
    """What a session needs of a connected browser."""

    def post(self, message: ToBrowser) -> None: ...

    def show(self, pane: int, kind: str, picture: bytes) -> None: ...

    async def close(self, code: int) -> None: ...


@dataclass
class Seat:
    """One view at a session."""

    number: int
    view: View
    panes: dict[int, PaneState] = field(default_factory=dict)
    in_hand: InHand | None = None
    """An edit that is shown but not committed."""
    serial: int = 0
    budget: int | None = None
    """Bytes that a picture for this view may have; None while its line is not slow."""

    def host_id(self, pane: int) -> str:
        """Name of a pane towards the render host."""
        return pane_name(self.number, pane)

    def pane_message(self, state: PaneState) -> PaneOfSeat:
        """What the render host is to know of a pane."""
        return PaneOfSeat(seat=self.number, state=state, budget=self.budget)

    @property
    def is_looking(self) -> bool:
        """Whether somebody sees a pane of it."""
        return any(pane.visible for pane in self.panes.values())


class Seats:
    """All views of one session."""

    def __init__(self) -> None:
        self._seats: dict[int, Seat] = {}
        self._next = 1

    def __iter__(self) -> Iterator[Seat]:
        return iter(list(self._seats.values()))

    def __len__(self) -> int:
        return len(self._seats)

    def take(self, view: View) -> Seat:
        """A seat for a new view."""
        seat = self._seats[self._next] = Seat(self._next, view)
        self._next += 1
        return seat

    def find(self, view: View) -> Seat | None:
        """The seat of a view; None when it has left."""
        return next((seat for seat in self._seats.values() if seat.view is view), None)

    def of(self, view: View) -> Seat:
        """The seat of a view. Raises LookupError when it has left."""
        seat = self.find(view)
        if seat is None:
            raise LookupError("this view has left the session")
        return seat

    def numbered(self, number: int) -> Seat | None:
        """A seat by its number; None when it has been left."""
        return self._seats.get(number)

    def leave(self, view: View) -> Seat:
        """Give a seat back."""
        return self._seats.pop(self.of(view).number)

    def pane_of(self, host_id: str) -> tuple[Seat, int] | None:
        """Seat and pane behind a name of `Seat.host_id`; None when they are gone."""
        number, _, pane = host_id.partition(".")
        seat = self._seats.get(int(number))
        return (seat, int(pane)) if seat is not None and int(pane) in seat.panes else None

    @property
    def anybody_looks(self) -> bool:
        """Whether some view sees a picture."""
        return any(seat.is_looking for seat in self._seats.values())
