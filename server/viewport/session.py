"""One open project: its views, its document as committed, the edit in hand, and its supervised render host.

In: messages of views and of the host. Out: messages to views. Made by the consumer when a project's first view
opens, ended when the last one closes. Everything here runs on one event loop.
"""

import asyncio
import base64
import contextlib
import logging
import time
from dataclasses import dataclass
from typing import Any

from channels.db import database_sync_to_async

from lantern.scene.reading import Patch, SceneError, read_scene
from server.projects import storage
from server.projects.errors import Refused
from server.projects.models import Project
from server.projects.policy import Person, project_for
from server.viewport.cover import CoverKeeper
from server.viewport.hosts import RenderHost, hosts
from server.viewport.messages import PaneState
from server.viewport.seats import Seat, Seats, View

log = logging.getLogger(__name__)
MOST_VAIN_STARTS = 4
"""Hosts in a row that died before they showed anything: then the document itself is what kills them."""
LINGER_SECONDS = 20.0
SHOT_PANE = 0


@dataclass(frozen=True)
class Snapshot:
    """A project as it stands in the database, read outside the event loop."""

    project_id: int
    scene: dict[str, Any]
    revision: int
    can_undo: bool
    can_redo: bool

    @classmethod
    def opened(cls, project: Project) -> "Snapshot":
        """Take one of a project that an earlier version may have saved: it is shown as of today's."""
        project.scene = project.document().plain()
        return cls.of(project)

    @classmethod
    def of(cls, project: Project) -> "Snapshot":
        """Take one; asks the database."""
        return cls(project.pk, project.scene, project.revision, project.can_undo, project.can_redo)


class Session:
    """The live side of one project."""

    def __init__(self, snapshot: Snapshot) -> None:
        self.project_id = snapshot.project_id
        self.seats = Seats()
        self.cover = CoverKeeper(snapshot.project_id)
        self._snapshot = snapshot
        self._running = True
        self._host: RenderHost | None = None
        self._supervisor: asyncio.Task[None] | None = None
        self._requests: dict[int, View] = {}
        self._request_number = 0
        self._state = "starting"
        self._found: dict[
            str, dict[str, Any]
        ] = {}  # what the host last said of the document, for views that come later
        self._swatches: dict[str, str] = {}  # digest of what each swatch shows, by material
        self._known_files: tuple[Any, ...] | None = None
        self._known_paths: dict[str, str] = {}
        self._tasks: set[asyncio.Future[None]] = set()
        self._sent = 0  # scenes on their way to the host, numbered: a later one never gives way to an earlier
        self.host_starts = 0

    # Views

    def join(self, view: View) -> None:
        """Add a view and tell it where things stand."""
        self.seats.take(view)
        view.post(self._document_message())
        view.post({"type": "host", "state": self._state})
        view.post({"type": "running", "running": self._running})
        for message in self._found.values():
            view.post(message)
        if self._supervisor is None:
            self._supervisor = asyncio.create_task(self._supervise())

    def leave(self, view: View) -> None:
        """Remove a view, its panes and its edit in hand."""
        seat = self.seats.leave(view)
        for pane in seat.panes:
            self._to_host({"op": "drop", "pane": seat.host_id(pane)})
        if seat.in_hand is not None and len(self.seats):
            self._send_scene()
        for number in [n for n, v in self._requests.items() if v is view]:
            del self._requests[number]

    def _post(self, message: dict[str, Any]) -> None:
        for seat in self.seats:
            seat.view.post(message)

    def _document_message(self) -> dict[str, Any]:
        return {
            "type": "document",
            "revision": self._snapshot.revision,
            "scene": self._snapshot.scene,
            "can_undo": self._snapshot.can_undo,
            "can_redo": self._snapshot.can_redo,
        }

    # The document

    def committed(self, view: View, snapshot: Snapshot) -> None:
        """The document has changed in the database by an edit of this view; the edits in hand of others go on."""
        self.seats.of(view).in_hand = None
        if snapshot.revision < self._snapshot.revision:
            return  # two commits overtook each other; the newer one is already shown
        self._snapshot = snapshot
        self._post(self._document_message())
        self._send_scene()

    def preview(self, view: View, patch: Patch, serial: int) -> None:
        """Show an edit that is still in hand; an empty patch lets go of it. Raises SceneError when it does not fit."""
        seat = self.seats.of(view)
        seat.in_hand, seat.serial = patch or None, serial
        try:
            self._send_scene(seat)
        except SceneError:
            self._send_scene()
            raise

    def _send_scene(self, new: Seat | None = None) -> None:
        """Give the host what is to be shown. Raises SceneError when the edit in hand of the seat `new` does not fit."""
        scene = self.seats.with_edits_in_hand(self._snapshot.scene, new)
        self._sent += 1
        message = {"op": "scene", "scene": scene, "revision": self._snapshot.revision, "serials": self.seats.serials()}
        files = self._files(scene)
        if files == self._known_files:
            self._to_host({**message, "paths": self._known_paths})
            return
        task = asyncio.ensure_future(self._send_with_new_files(message, files, self._sent))
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    @staticmethod
    def _files(scene: dict[str, Any]) -> tuple[Any, ...]:
        profiles = [light.get("profile") for light in scene["lights"].values()]
        return scene["asset"], scene["environment"]["map"], *profiles

    async def _send_with_new_files(self, message: dict[str, Any], files: tuple[Any, ...], number: int) -> None:
        """Ask the database where the document's files are, only when they have changed."""
        scene = message["scene"]
        try:
            paths = await database_sync_to_async(lambda: storage.paths_for(read_scene(scene)))()
        except (Refused, SceneError) as error:
            self._post({"type": "error", "message": str(error)})
            return
        self._known_files, self._known_paths = files, paths
        if number == self._sent:
            self._to_host({**message, "paths": paths})

    # What views ask of the host

    def set_pane(self, view: View, state: PaneState) -> None:
        """Take over what a view wants to see in one of its panes."""
        seat = self.seats.of(view)
        seat.panes[state.pane] = state
        seat.serial = max(seat.serial, state.serial)
        self._to_host(self._pane_message(seat, state))

    def close_pane(self, view: View, pane: int) -> None:
        """A view has closed one of its panes."""
        seat = self.seats.of(view)
        if seat.panes.pop(pane, None) is not None:
            self._to_host({"op": "drop", "pane": seat.host_id(pane)})

    def set_budget(self, view: View, budget: int) -> None:
        """How many bytes a picture for this view may have."""
        seat = self.seats.of(view)
        seat.budget = budget
        for pane in seat.panes:
            self._to_host({"op": "budget", "pane": seat.host_id(pane), "bytes": budget})

    @staticmethod
    def _pane_message(seat: Seat, state: PaneState) -> dict[str, Any]:
        return {
            "op": "pane",
            "pane": seat.host_id(state.pane),
            "seat": seat.number,
            "budget": seat.budget,
            "state": state.model_dump(mode="json"),
        }

    def set_running(self, running: bool) -> None:
        """Run or hold the proof."""
        self._running = running
        self._to_host({"op": "run" if running else "hold"})
        self._post({"type": "running", "running": running})

    def ask(self, view: View, message: dict[str, Any], request: Any = None) -> None:
        """Put a question about one of a view's panes to the host; the answer goes to the view that asked."""
        self._request_number += 1
        self._requests[self._request_number] = view
        pane = self.seats.of(view).host_id(int(message["pane"]))
        self._to_host({**message, "pane": pane, "request": self._request_number, "asked": request})

    # The host

    def _to_host(self, head: dict[str, Any]) -> None:
        if self._host is not None:
            self._host.send(head)

    async def _supervise(self) -> None:
        """Keep a host alive; after a death it gets the document as it was and goes on."""
        vain_starts = 0
        while True:
            born = time.monotonic()
            try:
                await self._live()
            except Exception:
                log.exception("the render host of project %s cannot be run", self.project_id)
            vain_starts = 0 if self._state == "ready" else vain_starts + 1
            log.warning("the render host of project %s died after %.1f s", self.project_id, time.monotonic() - born)
            if vain_starts >= MOST_VAIN_STARTS:
                self._set_state("failed")
                return
            self._set_state("restarting")
            await asyncio.sleep(0.05 * 4**vain_starts if vain_starts else 0.0)

    async def _live(self) -> None:
        self._host = host = await hosts.take()
        self.host_starts += 1
        try:
            for seat in self.seats:
                for state in seat.panes.values():
                    self._to_host(self._pane_message(seat, state))
            if self._running:
                self._to_host({"op": "run"})
            self._to_host({"op": "swatches", "made": self._swatches})
            self._send_scene()
            while (message := await host.receive()) is not None:
                self._from_host(*message)
        finally:
            host.end()

    def _set_state(self, state: str) -> None:
        if state != self._state:
            self._state = state
            self._post({"type": "host", "state": state})

    def _from_host(self, head: dict[str, Any], body: bytes) -> None:
        operation = head.pop("op")
        if "request" in head:
            view_asking = self._requests.pop(head.pop("request"), None)
            if view_asking is not None:
                view_asking.post({"type": operation, **head})
        elif "pane" in head:
            self._set_state("ready")
            if (found := self.seats.pane_of(head.pop("pane"))) is None:
                return
            seat, pane = found
            if operation in ("frame", "overlay"):
                seat.view.show(pane, operation, body)
                if operation == "frame" and pane == SHOT_PANE:
                    self.cover.take(seat.panes[pane], body)
            else:
                seat.view.post({"type": operation, "pane": pane, **head})
        elif operation == "swatch":
            material = head["material"]
            self._swatches[material] = head["digest"]
            picture = f"data:image/jpeg;base64,{base64.b64encode(body).decode()}"
            self._found[f"swatch {material}"] = message = {
                "type": "swatch", "material": material, "picture": picture,
            }  # fmt: skip
            self._post(message)
        else:
            if operation == "error":
                self._set_state("ready")
            message = {"type": operation, **head}
            if operation in ("opened", "problems"):
                self._found[operation] = message
            self._post(message)

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
        snapshot = await database_sync_to_async(lambda: Snapshot.opened(project_for(person, project_id)))()
        async with self._lock:
            session = self._open.get(project_id)
            if session is None:
                session = self._open[project_id] = Session(snapshot)
            session.join(view)
        return session

    async def leave(self, session: Session, view: View) -> None:
        """Remove a view; a project that nobody looks at for a while gives its host back."""
        session.leave(view)
        if len(session.seats):
            return
        await session.cover.keep()
        await asyncio.sleep(LINGER_SECONDS)
        async with self._lock:
            if not len(session.seats) and self._open.get(session.project_id) is session:
                del self._open[session.project_id]
                await session.close()


sessions = Sessions()
