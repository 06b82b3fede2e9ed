"""The socket of a showing's page: who leads, what all see, and live pictures. The protocol is in `docs/protocol.md`."""

import asyncio
import contextlib
import logging
from datetime import datetime
from typing import Any

from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from django.utils import timezone
from pydantic import ValidationError

from server.errors import Missing, Refused
from server.live.outbox import Outbox
from server.protocol.browser import Shown
from server.protocol.showings import (
    FROM_VISITOR,
    LARGEST_FROM_VISITOR,
    Lead,
    Live,
    LookAround,
    Release,
    Rest,
    ToVisitor,
)
from server.showings import audience, turning, visiting
from server.showings.rights import Right

log = logging.getLogger(__name__)
LONGEST_TIMER = 86_400.0
"""Seconds; a page that is open for longer than a day asks again when it comes back."""
LOOK_SECONDS = 0.02
"""Looks come no quicker than that to the host; of those between the newest counts."""
BROKEN = 1011
"""The page takes nothing any more (RFC 6455, section 7.4.1)."""


class ShowingConsumer(AsyncWebsocketConsumer):
    """One page of a showing."""

    may_lead = may_turn = is_open = False
    _number: int | None = None
    _sender: asyncio.Task[None] | None = None
    _end: asyncio.TimerHandle | None = None
    _looking: asyncio.Task[None] | None = None
    _wanted: LookAround | None = None

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        try:
            await super().__call__(scope, receive, send)
        finally:
            self._leave()

    async def connect(self) -> None:
        self._outbox = Outbox(
            lambda text: self.send(text_data=text), lambda data: self.send(bytes_data=data), self._on_budget
        )
        await self.accept()
        number = self.scope["url_route"]["kwargs"]["showing_id"]
        try:
            ends = await database_sync_to_async(self._enter)(number)
        except Missing:
            await self.close(code=audience.OVER)
            return
        self._number, self.is_open = number, True
        self._sender = asyncio.create_task(self._send_out())
        if not audience.joined(number, self):
            self._number, self.is_open = None, False
            await self.close(code=audience.FULL)
            return
        seconds = min((ends - timezone.now()).total_seconds(), LONGEST_TIMER)
        self._end = asyncio.get_running_loop().call_later(max(seconds, 0.0), self._over)

    def _enter(self, number: int) -> datetime:
        showing = visiting.opened(self.scope["session"], number)
        live: Right = "live"
        self.may_lead = visiting.may_lead(self.scope["user"], showing)
        self.may_turn = self.may_lead or live in showing.rights
        return showing.ends

    def _over(self) -> None:
        self._closing = asyncio.create_task(self.close(code=audience.OVER))

    async def disconnect(self, code: int) -> None:
        self._leave()

    def _leave(self) -> None:
        self.is_open = False
        for waiting in (self._end, self._sender, self._looking):
            if waiting is not None:
                waiting.cancel()
        number, self._number = self._number, None
        if number is not None:
            turning.rest(number, self)
            audience.left(number, self)

    # What it is told

    def tell(self, message: ToVisitor) -> None:
        """Queue a message; a page that takes none any more is let go, and asks again when it is back."""
        self._outbox.post(message)
        if self._outbox.overflows and self._sender is not None:
            self._sender.cancel()

    def picture(self, pane: int, kind: str, picture: bytes) -> None:
        """Show a live picture of its own; when it leads, to all."""
        self._outbox.show(pane, kind, picture)
        if self._number is not None:
            audience.relay(self._number, self, kind, picture)

    def relayed(self, kind: str, picture: bytes) -> None:
        """Show a live picture of whoever leads, unless the page looks at one of its own."""
        if self._number is not None and not turning.turns(self._number, self):
            self._outbox.show(0, kind, picture)

    def _on_budget(self, budget: int) -> None:
        if self._number is not None:
            turning.set_budget(self._number, self, budget)

    async def _send_out(self) -> None:
        with contextlib.suppress(Exception, asyncio.CancelledError):  # the browser is gone, or takes nothing
            await self._outbox.run()
        if self._number is not None:
            await self.close(code=BROKEN)

    # What it says

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        # Nothing that a visitor sends is answered: what they may not do is passed over.
        if self._number is None or text_data is None or len(text_data) > LARGEST_FROM_VISITOR:
            return
        try:
            message = FROM_VISITOR.validate_json(text_data)
        except ValidationError:
            return
        match message:
            case Shown():
                self._outbox.acknowledge()
            case LookAround() if self.may_turn:
                self._look(message)
            case Rest():
                self._wanted = None
                turning.rest(self._number, self)
            case Lead() if self.may_lead:
                audience.lead(self._number, self, message)
            case Release() if self.may_lead:
                audience.release(self._number, self)

    def _look(self, wanted: LookAround) -> None:
        self._wanted = wanted
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._look_on())

    async def _look_on(self) -> None:
        """Have the newest look shown, as long as there are newer ones."""
        while self._wanted is not None and self._number is not None:
            wanted, self._wanted = self._wanted, None
            try:
                await turning.look(self._number, self, wanted)
            except (Missing, Refused):
                self.tell(Live(state="busy"))
            except Exception:
                log.exception("showing %s cannot be seen live", self._number)
                self.tell(Live(state="busy"))
            await asyncio.sleep(LOOK_SECONDS)
