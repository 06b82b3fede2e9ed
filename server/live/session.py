"""One open project, or the showing of one: its views, its document as committed, the edits in hand, its render host.

In: messages of views and of the host. Out: messages to views. Made by the consumer when a project's first view opens,
ended when the last one closes. Everything here runs on one event loop; a document is packed outside it.
"""

import asyncio
import base64
import contextlib
import logging
import time
from collections.abc import Callable
from datetime import datetime
from typing import Any

from django.conf import settings

from lantern.scene.editing import files_in
from lantern.scene.model import FileRef
from server.live.asking import Answering, Pending
from server.live.cover import CoverKeeper
from server.live.hosts import RenderHost, hosts
from server.live.places import Places
from server.live.seats import Seats, View
from server.live.snapshot import Snapshot
from server.live.taking import film_of_take, kept_take, new_film_file, paths_of_view
from server.projects.policy import Person
from server.protocol import browser, host, pipe, questions
from server.protocol.panes import PaneState
from server.protocol.takes import HostQuestion, OpenFilm, Reopen, Still, Take
from server.runtime import counters

log = logging.getLogger(__name__)
MOST_VAIN_STARTS = 4
"""Hosts in a row that died before they showed anything: then the document itself is what kills them."""
REST_SECONDS = 120.0
"""A project that nobody has looked at for so long, its windows hidden, gives its host back."""
UNKNOWN_PROJECT = 4404
"""Why a socket is closed: there is no such project for whoever opened it."""
SHOT_PANE = 0
BEAT_SECONDS, SILENCE_SECONDS = 0.5, 2.5
"""How often a host is asked whether it lives, and how long it may take to answer."""
FIRST_SILENCE_SECONDS = 20.0
LONGEST_STEP_SECONDS = {"waiting": float("inf"), "step": 120.0, "document": 900.0}
"""How long a host's loop may be at one thing."""


places = Places(settings.MOST_HOSTS)


class Session:
    """The live side of one project; that of a showing is a guest on this machine: it gives way to projects."""

    def __init__(self, snapshot: Snapshot, *, is_guest: bool = False) -> None:
        self.project_id = snapshot.project_id
        self.is_guest = is_guest
        self.seats = Seats()
        self.cover = None if is_guest else CoverKeeper(snapshot.project_id)
        self.touched = time.monotonic()
        self.host_starts = 0
        self._snapshot = snapshot
        self._paths = dict(snapshot.paths)
        self._running = True
        self._printing = False
        self._host: RenderHost | None = None
        self._supervisor: asyncio.Task[None] | None = None
        self._wanted = asyncio.Event()  # somebody looks, and nothing is known that would kill a host
        self._gives_way = False
        self._pending = Pending()
        self._state: browser.HostStateName = "starting"
        self._found: dict[str, browser.ToBrowser] = {}  # what the host last said, for views that come later
        self._swatches: dict[str, str] = {}  # digest of what each swatch shows, by material
        self._tasks: set[asyncio.Task[None]] = set()
        self._pong_at = 0.0

    # Views

    def join(self, view: View) -> None:
        """Add a view and tell it where things stand."""
        self.seats.take(view)
        view.post(self._document_message())
        view.post(browser.HostState(state=self._state))
        view.post(browser.Running(running=self._running))
        for message in self._found.values():
            view.post(message)
        self._touch()
        if self._supervisor is None:
            self._supervisor = asyncio.create_task(self._supervise())

    def leave(self, view: View) -> None:
        """Remove a view, its panes and its edit in hand."""
        seat = self.seats.leave(view)
        for pane in seat.panes:
            self._to_host(host.Drop(pane=seat.host_id(pane)))
        self._to_host(host.Leave(seat=seat.number))
        self._pending.forget(view)

    def _post(self, message: browser.ToBrowser) -> None:
        for seat in self.seats:
            seat.view.post(message)

    def _touch(self) -> None:
        """Somebody does something here."""
        self.touched = time.monotonic()
        self._wanted.set()

    def _document_message(self) -> browser.DocumentMessage:
        now = self._snapshot
        return browser.DocumentMessage(
            revision=now.revision, scene=now.scene, can_undo=now.can_undo, can_redo=now.can_redo
        )

    # The document

    def committed(self, view: View, snapshot: Snapshot) -> None:
        """The document has changed in the database by an edit of this view; the edits in hand of others go on."""
        self._touch()
        seat = self.seats.find(view)
        if seat is not None:
            seat.in_hand = None
        before = self._snapshot.revision
        if snapshot.revision == before + 1:
            self._snapshot = snapshot
            self._paths.update(snapshot.paths)
            self._tell_changes(snapshot, None if seat is None else seat.number)
            return
        if snapshot.revision > before:
            # Changed elsewhere as well: this side has missed something.
            self.replaced(snapshot)
        if seat is not None:
            self._to_host(host.InHand(seat=seat.number, patch=[], serial=seat.serial))

    @property
    def state(self) -> tuple[int, datetime]:
        """Which document is shown, as `Project.state`."""
        return self._snapshot.state

    def replaced(self, snapshot: Snapshot) -> None:
        """The document in the database is another than the one shown, by none of the views here; show it whole."""
        self._snapshot = snapshot
        self._paths.update(snapshot.paths)
        self._post(self._document_message())
        self._to_host(host.WholeDocument(scene=snapshot.scene, revision=snapshot.revision, paths=self._paths))

    def gone(self) -> None:
        """The project is there no more: its windows are told so, and leave."""
        for seat in self.seats:
            self._start(seat.view.close(UNKNOWN_PROJECT))

    def _tell_changes(self, now: Snapshot, released: int | None) -> None:
        """Tell windows and host what differs from the revision before; `released` is the seat that did it."""
        edited = browser.Edited(revision=now.revision, patch=now.changes, can_undo=now.can_undo, can_redo=now.can_redo)
        self._post(edited)
        self._to_host(host.Changed(patch=now.changes, revision=now.revision, paths=now.paths, released=released))

    def preview(self, view: View, message: browser.Preview, person: Person) -> None:
        """Show an edit that is still in hand; an empty patch lets go of it. Whether it fits is said by the host."""
        self._touch()
        seat = self.seats.of(view)
        seat.serial = max(seat.serial, message.serial)
        in_hand = host.InHand(seat=seat.number, patch=message.patch, serial=message.serial)
        seat.in_hand = in_hand if message.patch else None
        unknown = [file for file in files_in(message.patch) if file.sha256 not in self._paths]
        if not unknown:
            self._to_host(in_hand)
            return

        self._find_files(
            view, unknown, person, lambda paths: self._to_host(in_hand.model_copy(update={"paths": paths}))
        )

    def _find_files(
        self, view: View, unknown: list[FileRef], person: Person, then: Callable[[host.Paths], None]
    ) -> None:
        """Find out where files of a person's lie, and go on; the view is told where they have no such file."""

        async def find() -> None:
            paths = await paths_of_view(self.project_id, view, unknown, person)
            if paths is not None:
                self._paths.update(paths)
                then(paths)

        self._start(find())

    def _start(self, work: Any) -> None:
        task = asyncio.ensure_future(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    # What views ask of the host

    def set_pane(self, view: View, state: PaneState, person: Person | None = None) -> None:
        """Take over what a view wants to see in one of its panes; files that a look of its own names are `person`'s."""
        seat = self.seats.of(view)
        seat.panes[state.pane] = state
        seat.serial = max(seat.serial, state.serial)
        if state.visible:
            self._touch()
        own = [] if state.look is None else list(files_in(state.look.model_dump(mode="json")))
        unknown = [file for file in own if file.sha256 not in self._paths]
        if not unknown or person is None:
            self._to_host(seat.pane_message(state))
            return

        def tell(paths: host.Paths) -> None:
            if seat.panes.get(state.pane) is state:  # it may want to see something else by now
                self._to_host(seat.pane_message(state).model_copy(update={"paths": paths}))

        self._find_files(view, unknown, person, tell)

    def close_pane(self, view: View, pane: int) -> None:
        """A view has closed one of its panes."""
        seat = self.seats.of(view)
        if seat.panes.pop(pane, None) is not None:
            self._to_host(host.Drop(pane=seat.host_id(pane)))

    def set_budget(self, view: View, budget: int) -> None:
        """How many bytes a picture for this view may have."""
        seat = self.seats.of(view)
        seat.budget = budget
        for pane in seat.panes:
            self._to_host(host.Budget(pane=seat.host_id(pane), bytes=budget))

    def set_running(self, running: bool) -> None:
        """Run or hold the proof."""
        self._touch()
        self._running = running
        self._to_host(host.RunProof(running=running))
        self._post(browser.Running(running=running))

    def ask(self, view: View, question: questions.Question) -> None:
        """Put a question about one of a view's panes to the host; the answer goes to the view that asked."""
        self._ask(view, question, view.post)

    def _ask(self, view: View, question: questions.Question | HostQuestion, answering: Answering) -> None:
        number = self._pending.add(view, answering)
        pane = self.seats.of(view).host_id(question.pane)
        self._to_host(host.Ask(number=number, pane=pane, question=question))

    def take(self, view: View, wanted: Take, person: Person) -> None:
        """Keep what a pane shows, with the document as it is now; the view is told when it is kept, or why not."""
        now = self._snapshot
        film_to = new_film_file() if wanted.film else None

        def store(found: Any) -> None:
            self._start(kept_take(view, wanted, person, now, found, film_to))

        asked_for = None if film_to is None else str(film_to)
        self._ask(view, Still(pane=wanted.pane, film_to=asked_for, request=wanted.request), store)

    def reopen(self, view: View, wanted: Reopen, person: Person) -> None:
        """Go on with the film of a take in a pane; the view is told from how many samples, or why not."""

        async def find() -> None:
            path = await film_of_take(self.project_id, view, wanted, person)
            if path is not None and self.seats.find(view) is not None:
                self._ask(view, OpenFilm(pane=wanted.pane, path=path, request=wanted.request), view.post)

        self._start(find())

    def set_printing(self, printing: bool) -> None:
        """Whether a print is being made on this machine: the proof makes room for it while nobody touches it."""
        self._printing = printing
        self._to_host(host.SharedMachine(printing=printing))

    # The host

    @property
    def has_host(self) -> bool:
        """Whether its host runs."""
        return self._host is not None

    def _to_host(self, message: host.ToHost) -> None:
        if self._host is not None:
            self._host.send(message)

    def give_way(self) -> None:
        """Give the place of the host to another project; called by `places`."""
        self._gives_way = True
        if self._host is not None:
            self._host.end()

    async def _supervise(self) -> None:
        """Keep a host alive while somebody looks; after a death it gets the document as it was and goes on."""
        vain_starts = 0
        while True:
            await self._wanted.wait()
            if places.is_full:
                self._set_state("waiting")
            await places.take(self)
            born, self._gives_way = time.monotonic(), False
            try:
                await self._live()
            except Exception:
                log.exception("the render host of project %s cannot be run", self.project_id)
            finally:
                await places.give(self)
            if self._gives_way:
                self._set_state("waiting" if self.seats.anybody_looks else "resting")
                if not self.seats.anybody_looks:
                    self._wanted.clear()
                vain_starts = 0
                continue
            vain_starts = 0 if self._state == "ready" else vain_starts + 1
            counters.hosts_ended.inc()
            log.warning("the render host of project %s died after %.1f s", self.project_id, time.monotonic() - born)
            if vain_starts >= MOST_VAIN_STARTS:
                # Another edit, or undo, may have mended what kills them.
                self._set_state("failed")
                self._wanted.clear()
                vain_starts = MOST_VAIN_STARTS - 1
                continue
            self._set_state("restarting")
            await asyncio.sleep(0.05 * 4**vain_starts if vain_starts else 0.0)

    async def _live(self) -> None:
        new = await hosts.take()
        self.host_starts += 1
        beating: asyncio.Task[None] | None = None
        try:
            await self._introduce(new)
            self._pong_at = time.monotonic() + FIRST_SILENCE_SECONDS - SILENCE_SECONDS
            beating = asyncio.create_task(self._beat(new))
            while (received := await new.receive()) is not None:
                self._from_host(*received)
        finally:
            self._host = None
            if beating is not None:
                beating.cancel()
            new.end()

    async def _introduce(self, new: RenderHost) -> None:
        """Tell a new host everything: the document, what is in hand, what is to be seen."""
        while True:
            now = self._snapshot
            whole = host.WholeDocument(scene=now.scene, revision=now.revision, paths=self._paths)
            packed = await asyncio.to_thread(pipe.pack, whole)
            if now is self._snapshot:
                break
        if self._gives_way:
            new.end()
            return
        if self.is_guest:
            new.be_modest()
        self._host = new
        new.send_packed(packed)
        for seat in self.seats:
            if seat.in_hand is not None:
                files = {file.sha256 for file in files_in(seat.in_hand.patch)}
                paths = {digest: path for digest, path in self._paths.items() if digest in files}
                new.send(seat.in_hand.model_copy(update={"paths": paths}))
            for state in seat.panes.values():
                new.send(seat.pane_message(state))
        if self._running:
            new.send(host.RunProof(running=True))
        new.send(host.SharedMachine(printing=self._printing))
        new.send(host.SwatchesKnown(made=self._swatches))

    async def _beat(self, alive: RenderHost) -> None:
        """Ask a host again and again whether it lives, and end one that does not; rest when nobody looks."""
        seen = time.monotonic()
        while True:
            asked = time.monotonic()
            alive.send(host.Ping())
            await asyncio.sleep(BEAT_SECONDS)
            now = time.monotonic()
            late = now - asked - BEAT_SECONDS
            if late > BEAT_SECONDS:
                self._pong_at += late  # this process was held up itself
            if now - self._pong_at > SILENCE_SECONDS:
                log.warning("the render host of project %s does not answer: it is ended", self.project_id)
                alive.end()
                return
            if self.seats.anybody_looks:
                seen = now
            elif now - seen > REST_SECONDS:
                self.give_way()
                return

    def _set_state(self, state: browser.HostStateName) -> None:
        if state != self._state:
            self._state = state
            if state == "ready":
                self._pong_at = time.monotonic()
            self._post(browser.HostState(state=state))

    def _from_host(self, message: host.FromHost, body: bytes) -> None:
        match message:
            case host.Pong():
                # Until it has shown something it may be loading, and is given time.
                self._pong_at = max(self._pong_at, time.monotonic())
                if message.seconds > LONGEST_STEP_SECONDS[message.doing] and self._host is not None:
                    log.warning("the host of project %s hangs at a %s", self.project_id, message.doing)
                    self._host.end()
            case host.Picture():
                self._take_picture(message, body)
            case host.PaneSaid():
                self._set_state("ready")
                if (found := self.seats.pane_of(message.pane)) is not None:
                    found[0].view.post(message.message)
            case host.Answered():
                self._pending.answered(message.number, message.answer)
            case host.SwatchMade():
                self._swatches[message.material] = message.digest
                picture = f"data:image/jpeg;base64,{base64.b64encode(body).decode()}"
                swatch = browser.Swatch(material=message.material, picture=picture)
                self._found[f"swatch {message.material}"] = swatch
                self._post(swatch)
            case host.Unfit():
                seat = self.seats.numbered(message.seat)
                if seat is not None:
                    seat.in_hand = None
                    seat.view.post(browser.RefusedMessage(message=message.message))
            case host.Said():
                if isinstance(message.message, browser.ErrorMessage):
                    self._set_state("ready")
                else:
                    self._found[message.message.type] = message.message
                self._post(message.message)

    def _take_picture(self, message: host.Picture, body: bytes) -> None:
        self._set_state("ready")
        if (found := self.seats.pane_of(message.pane)) is None:
            return
        seat, pane = found
        seat.view.show(pane, message.kind, body)
        if message.kind == "frame" and pane == SHOT_PANE and self.cover is not None:
            self.cover.take(seat.panes[pane], body)

    async def close(self) -> None:
        """End the host."""
        if self._supervisor is not None:
            self._supervisor.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._supervisor
