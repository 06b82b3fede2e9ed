"""The viewport socket: messages of one browser in, messages and frames out. The protocol is in `docs/protocol.md`.

A slow browser never gets old frames: only the newest waits for it.
"""

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
from server.viewport.session import Session, Snapshot, sessions

log = logging.getLogger(__name__)
UNKNOWN_PROJECT = 4404
LARGEST_MESSAGE = 1 << 20


class ViewportConsumer(AsyncWebsocketConsumer):
    """One open view."""

    async def connect(self) -> None:
        self._session: Session | None = None
        self._outbox: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        self._frame: bytes | None = None
        self._wake = asyncio.Event()
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
        self._leaving = asyncio.create_task(sessions.leave(self._session, self))

    # View

    def post(self, message: dict[str, Any]) -> None:
        """Queue a message for the browser."""
        self._outbox.put_nowait(message)
        self._wake.set()

    def show(self, frame: bytes) -> None:
        """Put a frame in the place of one that was not sent yet."""
        self._frame = frame
        self._wake.set()

    async def _send_out(self) -> None:
        with contextlib.suppress(Exception):  # the browser is gone; `disconnect` follows
            while True:
                await self._wake.wait()
                self._wake.clear()
                while not self._outbox.empty():
                    await self.send(text_data=json.dumps(self._outbox.get_nowait(), separators=(",", ":")))
                if self._frame is not None:
                    frame, self._frame = self._frame, None
                    await self.send(bytes_data=frame)

    # Messages

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        if self._session is None or text_data is None or len(text_data) > LARGEST_MESSAGE:
            return
        request: Any = None
        try:
            message = json.loads(text_data)
            request = message.get("request")
            handler = getattr(self, f"_on_{message['type']}", None)
            if handler is None:
                raise Refused(f"There is no message called {message['type']!r}.")
            await handler(self._session, message)
        except (Refused, SceneError, Missing) as error:
            self.post({"type": "refused", "message": str(error), "request": request})
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            self.post({"type": "refused", "message": f"The message cannot be read ({error!r}).", "request": request})

    async def _on_preview(self, session: Session, message: dict[str, Any]) -> None:
        session.preview(message["patch"], int(message["serial"]))

    async def _on_edit(self, session: Session, message: dict[str, Any]) -> None:
        action = ApplyEdit(self._person, session.project_id, message["patch"], str(message.get("label", "")))
        await self._commit(session, action, message)

    async def _on_undo(self, session: Session, message: dict[str, Any]) -> None:
        await self._commit(session, Undo(self._person, session.project_id), message)

    async def _on_redo(self, session: Session, message: dict[str, Any]) -> None:
        await self._commit(session, Redo(self._person, session.project_id), message)

    async def _commit(self, session: Session, action: ApplyEdit | Undo | Redo, message: dict[str, Any]) -> None:
        snapshot = await database_sync_to_async(lambda: Snapshot.of(action.execute()))()
        session.committed(snapshot)
        self.post({"type": "committed", "request": message.get("request"), "revision": snapshot.revision})

    async def _on_size(self, session: Session, message: dict[str, Any]) -> None:
        session.resize(int(message["width"]), int(message["height"]))

    async def _on_run(self, session: Session, message: dict[str, Any]) -> None:
        session.set_running(bool(message["running"]))

    async def _on_pick(self, session: Session, message: dict[str, Any]) -> None:
        session.ask(self, {"op": "pick", "x": float(message["x"]), "y": float(message["y"])})

    async def _on_fit(self, session: Session, message: dict[str, Any]) -> None:
        session.ask(self, {"op": "fit"})
