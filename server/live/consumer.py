"""The viewport socket: messages of one browser in, messages and pictures out. The protocol is in `docs/protocol.md`.

Whatever happens here, the seat is given back: a message that brings this code down ends its connection alone.
"""

import asyncio
import contextlib
import logging
from typing import Any

from channels.generic.websocket import AsyncWebsocketConsumer

from lantern.scene.reading import SceneError
from server.errors import Missing, Refused
from server.live import doors
from server.live.database import in_database
from server.live.outbox import Outbox
from server.live.session import UNKNOWN_PROJECT, Session
from server.live.sessions import sessions
from server.live.snapshot import Snapshot
from server.projects.actions import ApplyEdit, Redo, Undo
from server.protocol import browser
from server.protocol.takes import Reopen, Take
from server.runtime import counters

log = logging.getLogger(__name__)
BROKEN = 1011
"""The server met a condition that it did not expect (RFC 6455, section 7.4.1)."""


class ViewportConsumer(AsyncWebsocketConsumer):
    """One open view."""

    _session: Session | None = None
    _sender: asyncio.Task[None] | None = None
    _leaving: asyncio.Task[None] | None = None

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        try:
            await super().__call__(scope, receive, send)
        finally:
            self._leave()

    async def connect(self) -> None:
        self._outbox = Outbox(
            lambda text: self.send(text_data=text), lambda data: self.send(bytes_data=data), self._on_budget
        )
        self._person = self.scope["user"]
        await self.accept()
        if not self._person.is_authenticated:
            await self.close(code=doors.SIGNED_OUT)
            return
        try:
            self._session = await sessions.join(self._person, self.scope["url_route"]["kwargs"]["project_id"], self)
        except Missing:
            await self.close(code=UNKNOWN_PROJECT)
            return
        except Exception:
            log.exception("a project cannot be opened")
            await self.close(code=BROKEN)
            return
        doors.opened(self, self.scope["session"].session_key or "", self._person.pk)
        self._sender = asyncio.create_task(self._send_out())

    async def disconnect(self, code: int) -> None:
        self._leave()

    def _leave(self) -> None:
        """Give the seat back, once."""
        doors.closed(self)
        if self._sender is not None:
            self._sender.cancel()
        session, self._session = self._session, None
        if session is not None:
            self._leaving = asyncio.get_running_loop().create_task(sessions.leave(session, self))

    async def _send_out(self) -> None:
        with contextlib.suppress(Exception, asyncio.CancelledError):  # the browser is gone, or takes nothing
            await self._outbox.run()
        if self._session is not None:
            await self.close(code=BROKEN)

    def _on_budget(self, budget: int) -> None:
        if self._session is not None:
            self._session.set_budget(self, budget)

    # View

    def post(self, message: browser.ToBrowser) -> None:
        """Queue a message for the browser; one that takes none any more is let go."""
        if isinstance(message, browser.RefusedMessage):
            counters.messages_refused.inc()
        self._outbox.post(message)
        if self._outbox.overflows and self._sender is not None:
            self._sender.cancel()

    def show(self, pane: int, kind: str, picture: bytes) -> None:
        """Send a picture when the line has room, if no newer one has come by then."""
        self._outbox.show(pane, kind, picture)

    # Messages

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        if self._session is None or text_data is None:
            return
        request: str | None = None
        try:
            message = browser.read_message(text_data)
            request = getattr(message, "request", None)
            await self._handle(self._session, message)
        except browser.Unreadable as error:
            self.post(browser.RefusedMessage(message=str(error), request=error.request))
        except (Refused, SceneError, Missing) as error:
            self.post(browser.RefusedMessage(message=str(error), request=request))
        except Exception:
            log.exception("a message of a browser cannot be handled")
            await self.close(code=BROKEN)
            self._leave()

    async def _handle(self, session: Session, message: browser.FromBrowser) -> None:
        match message:
            case browser.Shown():
                self._outbox.acknowledge()
            case browser.Preview():
                session.preview(self, message, self._person)
            case browser.Edit():
                await self._commit(session, message)
            case browser.UndoMessage() | browser.RedoMessage():
                await self._commit(session, message)
            case browser.PaneMessage():
                session.set_pane(self, message, self._person)
            case browser.ClosePane():
                session.close_pane(self, message.pane)
            case browser.Run():
                session.set_running(message.running)
            case Take():
                session.take(self, message, self._person)
            case Reopen():
                session.reopen(self, message, self._person)
            case _:
                session.ask(self, message)

    async def _commit(
        self, session: Session, message: browser.Edit | browser.UndoMessage | browser.RedoMessage
    ) -> None:
        person, project, request = self._person, session.project_id, message.request
        action: ApplyEdit | Undo | Redo
        match message:
            case browser.Edit():
                action = ApplyEdit(person, project, message.patch, message.label, request, message.base)
            case browser.UndoMessage():
                action = Undo(person, project, request)
            case _:
                action = Redo(person, project, request)
        snapshot = await in_database(project, lambda: Snapshot.of(action.changes()))
        counters.edits_committed.inc()
        session.committed(self, snapshot)
        self.post(browser.Committed(request=request, revision=snapshot.revision))
