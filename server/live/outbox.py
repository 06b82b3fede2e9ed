"""What waits to be sent to one browser: messages in order, but only the newest picture of each pane.

The browser acknowledges every picture. At most MOST_ON_THE_WAY are unacknowledged, so that a slow line never holds
old ones, and the time they take says how many bytes a picture may have.
"""

import asyncio
import time
from collections import deque
from collections.abc import Awaitable, Callable

from server.protocol.browser import DocumentMessage, Status, ToBrowser
from server.protocol.showings import ToVisitor
from server.runtime import counters

MOST_ON_THE_WAY = 2
PICTURE_SECONDS = 0.25
"""How long one picture may keep the line busy."""
LEAST_BYTES, PLENTY_BYTES = 3_000, 4_000_000
"""Bounds of what is asked of the render host: below the first a picture says nothing, above the second any fits."""
MOST_WAITING = 5_000
"""Messages for a browser that takes none: beyond it the line is broken, and the browser starts anew when it is back."""
GIVEN_UP_SECONDS = 20.0
"""A picture that was not acknowledged for so long is counted as lost."""

SendText = Callable[[str], Awaitable[None]]
SendBytes = Callable[[bytes], Awaitable[None]]


class Outbox:
    """The way out to one browser."""

    def __init__(self, send_text: SendText, send_bytes: SendBytes, on_budget: Callable[[int], None]) -> None:
        self._send_text, self._send_bytes, self._on_budget = send_text, send_bytes, on_budget
        self._messages: deque[ToBrowser | ToVisitor] = deque()
        self._pictures: dict[tuple[int, str], bytes] = {}
        self._on_the_way: deque[tuple[int, float]] = deque()  # bytes, when sent
        self._wake = asyncio.Event()
        self._acknowledged_at = 0.0
        self._bytes_a_second: float | None = None
        self._told = PLENTY_BYTES
        self.overflows = False
        """Whether more waits than a browser could want that still listens."""
        self.replaced = 0
        """Pictures that a newer one took the place of."""

    def post(self, message: ToBrowser | ToVisitor) -> None:
        """Queue a message; of the states of a pane only the newest waits."""
        if isinstance(message, Status):
            # A slow line wants to know how it stands now.
            for waiting in [m for m in self._messages if isinstance(m, Status) and m.pane == message.pane]:
                self._messages.remove(waiting)
        self._messages.append(message)
        self.overflows |= len(self._messages) > MOST_WAITING
        self._wake.set()

    def show(self, pane: int, kind: str, picture: bytes) -> None:
        """Put a picture in the place of an older one that was not sent yet."""
        self.replaced += self._pictures.pop((pane, kind), None) is not None
        self._pictures[pane, kind] = picture
        self._wake.set()

    def acknowledge(self) -> None:
        """The browser has the oldest picture that was on its way."""
        if not self._on_the_way:
            return
        size, sent = self._on_the_way.popleft()
        now = time.monotonic()
        # A picture sent behind another waited for that one first.
        seconds = max(now - max(sent, self._acknowledged_at), 1e-4)
        self._acknowledged_at = now
        rate = size / seconds
        # Small pictures measure the browser's answer and not the line: they may only raise the estimate.
        if self._bytes_a_second is None:
            self._bytes_a_second = rate
        elif size > LEAST_BYTES or rate > self._bytes_a_second:
            self._bytes_a_second += 0.5 * (rate - self._bytes_a_second)
        self._tell(min(max(int(self._bytes_a_second * PICTURE_SECONDS), LEAST_BYTES), PLENTY_BYTES))
        self._wake.set()

    def _tell(self, budget: int) -> None:
        if abs(budget - self._told) > 0.25 * self._told:
            self._told = budget
            self._on_budget(budget)

    def _has_room(self) -> bool:
        while self._on_the_way and time.monotonic() - self._on_the_way[0][1] > GIVEN_UP_SECONDS:
            self._on_the_way.popleft()
        return len(self._on_the_way) < MOST_ON_THE_WAY

    async def run(self) -> None:
        """Send until cancelled or the browser is gone."""
        while True:
            await self._wake.wait()
            self._wake.clear()
            while self._messages:
                await self._send_text(await _as_text(self._messages.popleft()))
            while self._pictures and self._has_room():
                picture = self._pictures.pop(next(iter(self._pictures)))
                self._on_the_way.append((len(picture), time.monotonic()))
                await self._send_bytes(picture)
                counters.pictures_sent.inc()
                counters.picture_bytes_sent.inc(len(picture))


async def _as_text(message: ToBrowser | ToVisitor) -> str:
    if isinstance(message, DocumentMessage):
        # A large one takes long enough to hold up other projects' edits.
        return await asyncio.to_thread(message.model_dump_json)
    return message.model_dump_json()
