"""One open project: its views, its document as committed, the edit in hand, and its supervised render host.

In: messages of views and of the host. Out: messages to views. Made by the consumer when a project's first view
opens, ended when the last one closes. Everything here runs on one event loop.
"""

import asyncio
import contextlib
import logging
import sys
import time
from dataclasses import dataclass
from typing import Any, Protocol

from channels.db import database_sync_to_async

from lantern.scene.reading import Patch, SceneError, patched, read_scene
from server.projects import storage
from server.projects.errors import Refused
from server.projects.models import Project
from server.projects.policy import Person, project_for
from server.viewport import pipe

log = logging.getLogger(__name__)
HOST_COMMAND = (sys.executable, "-m", "server.viewport.host")
QUICK_DEATH_SECONDS = 10.0
MOST_QUICK_DEATHS = 4
LINGER_SECONDS = 20.0


class View(Protocol):
    """What a session needs of a connected browser."""

    def post(self, message: dict[str, Any]) -> None: ...

    def show(self, frame: bytes) -> None: ...


@dataclass(frozen=True)
class Snapshot:
    """A project as it stands in the database, read outside the event loop."""

    project_id: int
    scene: dict[str, Any]
    revision: int
    can_undo: bool
    can_redo: bool

    @classmethod
    def of(cls, project: Project) -> "Snapshot":
        """Take one; asks the database."""
        return cls(project.pk, project.scene, project.revision, project.can_undo, project.can_redo)


class Session:
    """The live side of one project."""

    def __init__(self, snapshot: Snapshot) -> None:
        self.project_id = snapshot.project_id
        self.views: set[View] = set()
        self._snapshot = snapshot
        self._transient: dict[str, Any] | None = None
        self._serial = 0
        self._size = (960, 600)
        self._running = True
        self._process: asyncio.subprocess.Process | None = None
        self._supervisor: asyncio.Task[None] | None = None
        self._requests: dict[int, View] = {}
        self._request_number = 0
        self._state = "starting"
        self._known_files: tuple[Any, Any] | None = None
        self._known_paths: dict[str, str] = {}
        self._tasks: set[asyncio.Future[None]] = set()

    # Views

    def join(self, view: View) -> None:
        """Add a view and tell it where things stand."""
        self.views.add(view)
        if len(self.views) == 1 and self._running:
            self._to_host({"op": "run"})
        view.post(self._document_message())
        view.post({"type": "host", "state": self._state})
        view.post({"type": "running", "running": self._running})
        if self._supervisor is None:
            self._supervisor = asyncio.create_task(self._supervise())
        else:
            self._to_host({"op": "refresh"})

    def leave(self, view: View) -> None:
        """Remove a view."""
        self.views.discard(view)
        if not self.views:
            self._to_host({"op": "hold"})
        for number in [n for n, v in self._requests.items() if v is view]:
            del self._requests[number]

    def _post(self, message: dict[str, Any]) -> None:
        for view in self.views:
            view.post(message)

    def _document_message(self) -> dict[str, Any]:
        return {
            "type": "document",
            "revision": self._snapshot.revision,
            "scene": self._snapshot.scene,
            "can_undo": self._snapshot.can_undo,
            "can_redo": self._snapshot.can_redo,
        }

    # The document

    def committed(self, snapshot: Snapshot) -> None:
        """The document has changed in the database."""
        if snapshot.revision < self._snapshot.revision:
            return  # two commits overtook each other; the newer one is already shown
        self._snapshot = snapshot
        self._transient = None
        self._serial += 1
        self._post(self._document_message())
        self._send_scene()

    def preview(self, patch: Patch, serial: int) -> None:
        """Show an edit that is still in hand. Raises SceneError when it does not fit."""
        self._transient = patched(self._snapshot.scene, patch)
        self._serial = serial
        self._send_scene()

    def _send_scene(self) -> None:
        scene, revision = self._transient or self._snapshot.scene, self._snapshot.revision
        task = asyncio.ensure_future(self._send_scene_with_paths(scene, revision, self._serial))
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    async def _send_scene_with_paths(self, scene: dict[str, Any], revision: int, serial: int) -> None:
        try:
            paths = await self._paths(scene)
        except (Refused, SceneError) as error:
            self._post({"type": "error", "message": str(error)})
            return
        if (revision, serial) < (self._snapshot.revision, self._serial):
            return  # a newer one is on its way
        self._to_host({"op": "scene", "scene": scene, "revision": revision, "serial": serial, "paths": paths})

    async def _paths(self, scene: dict[str, Any]) -> dict[str, str]:
        """Paths of the document's files, asked of the database only when the files change."""
        files = (scene["asset"], scene["environment"]["map"])
        if self._known_files != files:
            self._known_paths = await database_sync_to_async(lambda: storage.paths_for(read_scene(scene)))()
            self._known_files = files
        return self._known_paths

    # What views ask of the host

    def resize(self, width: int, height: int) -> None:
        """The newest view decides the size of the picture."""
        self._size = (width, height)
        self._to_host({"op": "size", "width": width, "height": height})

    def set_running(self, running: bool) -> None:
        """Run or hold the proof."""
        self._running = running
        self._to_host({"op": "run" if running else "hold"})
        self._post({"type": "running", "running": running})

    def ask(self, view: View, message: dict[str, Any]) -> None:
        """Put a question to the host; the answer goes to the view that asked."""
        self._request_number += 1
        self._requests[self._request_number] = view
        self._to_host({**message, "request": self._request_number})

    # The host

    def _to_host(self, head: dict[str, Any]) -> None:
        process = self._process
        if process is None or process.stdin is None or process.returncode is not None:
            return
        with contextlib.suppress(ConnectionError, RuntimeError):
            process.stdin.write(pipe.pack(head))

    async def _supervise(self) -> None:
        """Keep a host alive; after a death it gets the document as it was and goes on."""
        quick_deaths = 0
        while True:
            born = time.monotonic()
            try:
                await self._live()
            except Exception:
                log.exception("the render host of project %s cannot be run", self.project_id)
            lived = time.monotonic() - born
            quick_deaths = quick_deaths + 1 if lived < QUICK_DEATH_SECONDS else 0
            log.warning("the render host of project %s died after %.1f s", self.project_id, lived)
            if quick_deaths >= MOST_QUICK_DEATHS:
                self._set_state("failed")
                return
            self._set_state("restarting")
            await asyncio.sleep(0.1 * 2**quick_deaths)

    async def _live(self) -> None:
        self._process = await asyncio.create_subprocess_exec(
            *HOST_COMMAND, stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE
        )
        assert self._process.stdout is not None
        self._to_host({"op": "size", "width": self._size[0], "height": self._size[1]})
        if self._running:
            self._to_host({"op": "run"})
        self._send_scene()
        try:
            while (message := await pipe.read_async(self._process.stdout)) is not None:
                self._from_host(*message)
        finally:
            with contextlib.suppress(ProcessLookupError):
                self._process.kill()
            await self._process.wait()

    def _set_state(self, state: str) -> None:
        if state != self._state:
            self._state = state
            self._post({"type": "host", "state": state})

    def _from_host(self, head: dict[str, Any], body: bytes) -> None:
        operation = head.pop("op")
        if operation == "frame":
            self._set_state("ready")
            for view in self.views:
                view.show(body)
        elif "request" in head:
            view_asking = self._requests.pop(head.pop("request"), None)
            if view_asking is not None:
                view_asking.post({"type": operation, **head})
        else:
            if operation == "error":
                self._set_state("ready")
            self._post({"type": operation, **head})

    async def close(self) -> None:
        """End the host."""
        if self._supervisor is not None:
            self._supervisor.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._supervisor


class Sessions:
    """The open projects of this server process."""

    def __init__(self) -> None:
        self._open: dict[int, Session] = {}
        self._lock = asyncio.Lock()

    async def join(self, person: Person, project_id: int, view: View) -> Session:
        """The session of a project, made if need be, with the view in it. Raises Missing when it is not theirs."""
        snapshot = await database_sync_to_async(lambda: Snapshot.of(project_for(person, project_id)))()
        async with self._lock:
            session = self._open.get(project_id)
            if session is None:
                session = self._open[project_id] = Session(snapshot)
            session.join(view)
        return session

    async def leave(self, session: Session, view: View) -> None:
        """Remove a view; a project that nobody looks at for a while gives its host back."""
        session.leave(view)
        if session.views:
            return
        await asyncio.sleep(LINGER_SECONDS)
        async with self._lock:
            if not session.views and self._open.get(session.project_id) is session:
                del self._open[session.project_id]
                await session.close()


sessions = Sessions()
