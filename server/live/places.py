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
        """Wait for a place; first come, first served."""
        self._waiting.append(holder)
        try:
            while self.is_full or self._waiting[0] is not holder:
                if self._waiting[0] is holder:
                    self._ask_one_to_give_way()
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

    def _ask_one_to_give_way(self) -> None:
        idle = min(self._holders, key=lambda h: h.touched)
        if time.monotonic() - idle.touched > self._patience:
            idle.give_way()
