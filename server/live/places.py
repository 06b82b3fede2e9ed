"""Which projects have a render host: at most so many at once, shared fairly.

In: sessions that want one. Out: a place, or a wait for one. Called by `session`. When all places are taken, whoever has
touched nothing for longest gives way, if that is long enough; it then waits in its turn.
"""

import asyncio
import time
from typing import Protocol

PATIENCE_SECONDS = 20.0
"""A project that somebody has touched within so long keeps its place."""
LOOK_SECONDS = 1.0


class Holder(Protocol):
    """A session, as far as places are concerned."""

    touched: float
    """When somebody last did something, on the monotonic clock."""
    is_guest: bool
    """Whether it waits behind those who work here, and gives way to them at once."""

    def give_way(self) -> None: ...


class Places:
    """The places of this server process."""

    def __init__(self, most: int, patience: float = PATIENCE_SECONDS) -> None:
        self.most, self._patience = most, patience
        self._holders: list[Holder] = []
        self._freed = asyncio.Condition()
        self._waiting: list[Holder] = []

    @property
    def is_full(self) -> bool:
        """Whether the next one has to wait."""
        return len(self._holders) >= self.most

    async def take(self, holder: Holder) -> None:
        """Wait for a place; first come, first served, and guests last."""
        guests = sum(each.is_guest for each in self._waiting)
        self._waiting.insert(len(self._waiting) - (0 if holder.is_guest else guests), holder)
        try:
            while self.is_full or self._waiting[0] is not holder:
                if self._waiting[0] is holder:
                    self._ask_one_to_give_way(holder)
                async with self._freed:
                    try:
                        await asyncio.wait_for(self._freed.wait(), LOOK_SECONDS)
                    except TimeoutError:
                        continue
            self._holders.append(holder)
        finally:
            self._waiting.remove(holder)

    async def give(self, holder: Holder) -> None:
        """Give a place back."""
        self._holders.remove(holder)
        async with self._freed:
            self._freed.notify_all()

    def _ask_one_to_give_way(self, to: Holder) -> None:
        guests = [holder for holder in self._holders if holder.is_guest]
        if guests and not to.is_guest:
            min(guests, key=lambda h: h.touched).give_way()
            return
        idle = min(self._holders, key=lambda h: h.touched)
        if time.monotonic() - idle.touched > self._patience and not (to.is_guest and not idle.is_guest):
            idle.give_way()
