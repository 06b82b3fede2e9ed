"""The views of a session: who looks, what each wants to see, and which edit each has in hand."""

from dataclasses import dataclass, field
from typing import Any, Protocol

from lantern.scene.reading import Patch, SceneError, patched
from server.viewport.messages import PaneState


class View(Protocol):
    """What a session needs of a connected browser."""

    def post(self, message: dict[str, Any]) -> None: ...

    def show(self, pane: int, kind: str, picture: bytes) -> None: ...


@dataclass
class Seat:
    """One view at a session."""

    number: int
    view: View
    panes: dict[int, PaneState] = field(default_factory=dict)
    in_hand: Patch | None = None
    """An edit that is shown but not committed."""
    serial: int = 0
    budget: int | None = None
    """Bytes that a picture for this view may have; None while its line is not slow."""

    def host_id(self, pane: int) -> str:
        """Name of a pane towards the render host."""
        return f"{self.number}.{pane}"


class Seats:
    """All views of one session."""

    def __init__(self) -> None:
        self._seats: dict[int, Seat] = {}
        self._next = 1

    def __iter__(self):
        return iter(self._seats.values())

    def __len__(self) -> int:
        return len(self._seats)

    def take(self, view: View) -> Seat:
        """A seat for a new view."""
        seat = self._seats[self._next] = Seat(self._next, view)
        self._next += 1
        return seat

    def of(self, view: View) -> Seat:
        """The seat of a view. Raises LookupError when it has left."""
        for seat in self._seats.values():
            if seat.view is view:
                return seat
        raise LookupError("this view has left the session")

    def leave(self, view: View) -> Seat:
        """Give a seat back."""
        return self._seats.pop(self.of(view).number)

    def pane_of(self, host_id: str) -> tuple[Seat, int] | None:
        """Seat and pane behind a name of `Seat.host_id`; None when they are gone."""
        number, _, pane = host_id.partition(".")
        seat = self._seats.get(int(number))
        return (seat, int(pane)) if seat is not None and int(pane) in seat.panes else None

    def serials(self) -> dict[str, int]:
        """The newest serial of each view, by the number of its seat."""
        return {str(seat.number): seat.serial for seat in self}

    def with_edits_in_hand(self, scene: dict[str, Any], new: Seat | None = None) -> dict[str, Any]:
        """The document with every edit in hand applied; one that does not fit any more is let go.

        Raises SceneError when it is that of the seat `new`, who should hear of it.
        """
        for seat in self:
            if seat.in_hand is None:
                continue
            try:
                scene = patched(scene, seat.in_hand)
            except SceneError:
                seat.in_hand = None
                if seat is new:
                    raise
        return scene
