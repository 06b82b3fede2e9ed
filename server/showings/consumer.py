"""The socket of a showing's page: who leads, and what all see. The protocol is in `docs/protocol.md`."""

import asyncio
import contextlib
from datetime import datetime
from typing import Any

from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from django.utils import timezone
from pydantic import ValidationError

from server.errors import Missing
from server.protocol.showings import FROM_VISITOR, LARGEST_FROM_VISITOR, Lead, ToVisitor
from server.showings import audience, visiting

LONGEST_TIMER = 86_400.0
"""Seconds; a page that is open for longer than a day asks again when it comes back."""
MOST_WAITING = 50
"""Messages for a page that takes none."""


class ShowingConsumer(AsyncWebsocketConsumer):
    """One page of a showing."""

    may_lead = False
    _number: int | None = None
    _sender: asyncio.Task[None] | None = None
    _end: asyncio.TimerHandle | None = None

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        try:
            await super().__call__(scope, receive, send)
        finally:
            self._leave()

    async def connect(self) -> None:
        self._waiting: asyncio.Queue[ToVisitor] = asyncio.Queue(MOST_WAITING)
        await self.accept()
        number = self.scope["url_route"]["kwargs"]["showing_id"]
        try:
            ends = await database_sync_to_async(self._enter)(number)
        except Missing:
            await self.close(code=audience.OVER)
            return
        self._number = number
        self._sender = asyncio.create_task(self._send_out())
        if not audience.joined(number, self):
            self._number = None
            await self.close(code=audience.FULL)
            return
        seconds = min((ends - timezone.now()).total_seconds(), LONGEST_TIMER)
        self._end = asyncio.get_running_loop().call_later(max(seconds, 0.0), self._over)

    def _enter(self, number: int) -> datetime:
        showing = visiting.opened(self.scope["session"], number)
        self.may_lead = visiting.may_lead(self.scope["user"], showing)
        return showing.ends

    def _over(self) -> None:
        self._closing = asyncio.create_task(self.close(code=audience.OVER))

    async def disconnect(self, code: int) -> None:
        self._leave()

    def _leave(self) -> None:
        if self._end is not None:
            self._end.cancel()
        if self._sender is not None:
            self._sender.cancel()
        number, self._number = self._number, None
        if number is not None:
            audience.left(number, self)

    def tell(self, message: ToVisitor) -> None:
        """Queue a message; a page that takes none misses it, and has the next one."""
        if self._waiting.full():
            self._waiting.get_nowait()
        self._waiting.put_nowait(message)

    async def _send_out(self) -> None:
        with contextlib.suppress(Exception):  # the browser is gone
            while True:
                await self.send(text_data=(await self._waiting.get()).model_dump_json())

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        # Nothing that a visitor sends is answered: what they may not do is passed over.
        if self._number is None or not self.may_lead or text_data is None or len(text_data) > LARGEST_FROM_VISITOR:
            return
        try:
            message = FROM_VISITOR.validate_json(text_data)
        except ValidationError:
            return
        if isinstance(message, Lead):
            audience.lead(self._number, self, message)
        else:
            audience.release(self._number, self)
