"""The viewport socket: messages of one browser in, messages and pictures out. The protocol is in `docs/protocol.md`."""

import asyncio
import contextlib
import json
import logging
from typing import Any

from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer

from lantern.scene.reading import SceneError
from server.projects.actions import ApplyEdit, Redo, Undo
from server.projects.errors import Missing, Refused
from server.viewport.messages import read_pane
from server.viewport.outbox import Outbox
from server.viewport.session import Session, Snapshot, sessions

log = logging.getLogger(__name__)
UNKNOWN_PROJECT = 4404
LARGEST_MESSAGE = 1 << 20


class ViewportConsumer(AsyncWebsocketConsumer):
    """One open view."""

    async def connect(self) -> None:
        self._session: Session | None = None
        self._outbox = Outbox(
            lambda text: self.send(text_data=text), lambda data: self.send(bytes_data=data), self._on_budget
        )
        self._leaving: asyncio.Task[None] | None = None
        self._person = self.scope["user"]
        await self.accept()
        try:
            self._session = await sessions.join(self._person, self.scope["url_route"]["kwargs"]["project_id"], self)
        except Missing:
            await self.close(code=UNKNOWN_PROJECT)
            return
        self._sender = asyncio.create_task(self._send_out())

    async def disconnect(self, code: int) -> None:
        if self._session is None:
            return
        self._sender.cancel()
        session, self._session = self._session, None
        self._leaving = asyncio.create_task(sessions.leave(session, self))

    async def _send_out(self) -> None:
        with contextlib.suppress(Exception):  # the browser is gone; `disconnect` follows
            await self._outbox.run()

    def _on_budget(self, budget: int) -> None:
        if self._session is not None:
            self._session.set_budget(self, budget)

    # View

    def post(self, message: dict[str, Any]) -> None:
        """Queue a message for the browser."""
        self._outbox.post(message)

    def show(self, pane: int, kind: str, picture: bytes) -> None:
        """Send a picture when the line has room, if no newer one has come by then."""
        self._outbox.show(pane, kind, picture)

    # Messages

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        if self._session is None or text_data is None:
            return
        request: Any = None
        try:
            if len(text_data) > LARGEST_MESSAGE:
                raise Refused(f"A message has at most {LARGEST_MESSAGE} characters, not {len(text_data)}.")
            message = json.loads(text_data)
            request = message.get("request")
            handler = getattr(self, f"_on_{message['type']}", None)
            if handler is None:
                raise Refused(f"There is no message called {message['type']!r}.")
            await handler(self._session, message)
        except (Refused, SceneError, Missing) as error:
            self.post({"type": "refused", "message": str(error), "request": request})
        except (ValueError, KeyError, TypeError, AttributeError, LookupError) as error:
            self.post({"type": "refused", "message": f"The message cannot be read ({error!r}).", "request": request})

    async def _on_preview(self, session: Session, message: dict[str, Any]) -> None:
        session.preview(self, message["patch"], int(message["serial"]))

    async def _on_edit(self, session: Session, message: dict[str, Any]) -> None:
        label, base = str(message.get("label", "")), message.get("base")
        action = ApplyEdit(self._person, session.project_id, message["patch"], label, self._key(message), base)
        await self._commit(session, action, message)

    async def _on_undo(self, session: Session, message: dict[str, Any]) -> None:
        await self._commit(session, Undo(self._person, session.project_id, self._key(message)), message)

    async def _on_redo(self, session: Session, message: dict[str, Any]) -> None:
        await self._commit(session, Redo(self._person, session.project_id, self._key(message)), message)

    @staticmethod
    def _key(message: dict[str, Any]) -> str:
        """The name that a browser gave to a change, so that it is done once however often it arrives."""
        return str(message.get("request", ""))[:64]

    async def _commit(self, session: Session, action: ApplyEdit | Undo | Redo, message: dict[str, Any]) -> None:
        snapshot = await database_sync_to_async(lambda: Snapshot.of(action.execute()))()
        session.committed(self, snapshot)
        self.post({"type": "committed", "request": message.get("request"), "revision": snapshot.revision})

    async def _on_pane(self, session: Session, message: dict[str, Any]) -> None:
        session.set_pane(self, read_pane(message))

    async def _on_close_pane(self, session: Session, message: dict[str, Any]) -> None:
        session.close_pane(self, int(message["pane"]))

    async def _on_run(self, session: Session, message: dict[str, Any]) -> None:
        session.set_running(bool(message["running"]))

    async def _on_shown(self, session: Session, message: dict[str, Any]) -> None:
        self._outbox.acknowledge()

    async def _on_pick(self, session: Session, message: dict[str, Any]) -> None:
        point = {"x": float(message["x"]), "y": float(message["y"])}
        session.ask(self, {"op": "pick", "pane": message["pane"], **point}, message.get("request"))

    async def _on_values(self, session: Session, message: dict[str, Any]) -> None:
        point = {"x": float(message["x"]), "y": float(message["y"])}
        session.ask(self, {"op": "values", "pane": message["pane"], **point}, message.get("request"))

    async def _on_fit(self, session: Session, message: dict[str, Any]) -> None:
        question = {"parts": message.get("parts"), "direction": message.get("direction")}
        session.ask(self, {"op": "fit", "pane": message["pane"], **question}, message.get("request"))

    async def _on_bounds(self, session: Session, message: dict[str, Any]) -> None:
        question = {"op": "bounds", "pane": message["pane"], "parts": message["parts"]}
        session.ask(self, question, message.get("request"))
