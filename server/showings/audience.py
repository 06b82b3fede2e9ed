"""Who looks at which showing just now, and what whoever leads shows them.

In: sockets as they come and go, what is led, showings that are withdrawn. Out: messages to all sockets of a showing, or
all of them closed. Called by the consumer on its event loop, and by actions from their threads.
"""

import asyncio
from dataclasses import dataclass, field
from typing import Any, Protocol

from django.db import transaction
from django.db.models.signals import post_delete
from django.dispatch import receiver

from server.protocol.showings import Free, Lead, Led, ToVisitor, Viewers
from server.showings.models import Showing

OVER = 4404
"""Why a socket is closed: there is no such showing for it, or no more."""
FULL = 4429
"""Why a socket is closed: as many look as can. The page goes on without being led."""
ANEW = 4409
"""Why a socket is closed: what visitors may do has changed. The page comes back by itself."""
MOST_VIEWERS = 200


class Seat(Protocol):
    """One page that is open."""

    may_lead: bool

    def tell(self, message: ToVisitor) -> None: ...

    def relayed(self, kind: str, picture: bytes) -> None: ...

    async def close(self, code: int) -> None: ...


@dataclass
class _Room:
    seats: dict[Seat, asyncio.AbstractEventLoop] = field(default_factory=dict)
    leader: Seat | None = None
    led: Led | None = None
    picture: tuple[str, bytes] | None = None
    """The last live picture of whoever leads."""


_rooms: dict[int, _Room] = {}


def joined(showing: int, seat: Seat) -> bool:
    """Give a page its seat, and what is led just now; False where there is none left."""
    room = _rooms.setdefault(showing, _Room())
    if len(room.seats) >= MOST_VIEWERS:
        return False
    room.seats[seat] = asyncio.get_running_loop()
    if room.led is not None:
        seat.tell(room.led)
    if room.picture is not None:
        seat.relayed(*room.picture)
    _count(room)
    return True


def left(showing: int, seat: Seat) -> None:
    """Take a seat back. When whoever led is gone, all keep what they see, and may look on by themselves."""
    room = _rooms.get(showing)
    if room is None or room.seats.pop(seat, None) is None:
        return
    if room.leader is seat:
        release(showing, seat)
    if not room.seats:
        del _rooms[showing]
    else:
        _count(room)


def lead(showing: int, seat: Seat, shown: Lead) -> None:
    """Show something to all; whoever shows it leads from now on."""
    room = _rooms[showing]
    room.leader = seat
    room.led = Led(slide=shown.slide, around=shown.around, beside=shown.beside, live=shown.live)
    if room.led.live is None:
        room.picture = None
    for each in room.seats:
        if each is not seat:
            each.tell(room.led)


def relay(showing: int, seat: Seat, kind: str, picture: bytes) -> None:
    """Show a live picture to all, if it is of whoever leads and shows such ones."""
    room = _rooms.get(showing)
    if room is None or room.leader is not seat or room.led is None or room.led.live is None:
        return
    room.picture = kind, picture
    for each in room.seats:
        if each is not seat:
            each.relayed(kind, picture)


def release(showing: int, seat: Seat) -> None:
    """Let all look at what they like, if it is this seat that leads."""
    room = _rooms[showing]
    if room.leader is seat:
        room.leader = room.led = room.picture = None
        for each in room.seats:
            each.tell(Free())


def shut(showing: int, why: int = OVER) -> None:
    """Close every page of a showing; from any thread."""
    room = _rooms.get(showing)
    for seat, loop in list(room.seats.items()) if room else ():
        asyncio.run_coroutine_threadsafe(seat.close(why), loop)


@receiver(post_delete, sender=Showing)
def _gone(instance: Showing, **_: Any) -> None:
    """A showing that is removed, with its project perhaps, is over for all who look."""
    number = instance.pk
    transaction.on_commit(lambda: shut(number))


def _count(room: _Room) -> None:
    for each in room.seats:
        if each.may_lead:
            each.tell(Viewers(count=len(room.seats)))
