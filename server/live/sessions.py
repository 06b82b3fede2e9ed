"""The open projects of this server process: who joins gets a session, the last who leaves ends it after a while.

In: people and their views. Out: sessions. Called by the consumer; told by the database whether a print is being made.
"""

import asyncio
import logging
from collections.abc import Iterable

from django.db import DatabaseError, InterfaceError

from server.live.database import in_database
from server.live.seats import View
from server.live.session import Session
from server.live.snapshot import Snapshot
from server.projects.models import Project
from server.projects.newest import State
from server.projects.policy import Person, project_for
from server.workers.here import is_busy_here

LINGER_SECONDS = 20.0
log = logging.getLogger(__name__)
LOOK_SECONDS = 1.0
NO_PROJECT = 0
"""The lane in the database of what is about no project."""


def states_of(numbers: Iterable[int]) -> dict[int, State]:
    """The states of projects as they are stored."""
    found = Project.objects.filter(pk__in=list(numbers)).values_list("pk", "revision", "updated")
    return {number: (revision, updated) for number, revision, updated in found}


class Sessions:
    """The open projects of this server process."""

    def __init__(self) -> None:
        self._open: dict[int, Session] = {}
        self._lock = asyncio.Lock()
        self._printing = False
        self._changed: dict[int, State | None] = {}

    @property
    def open_count(self) -> int:
        """Projects that are open."""
        return len(self._open)

    @property
    def window_count(self) -> int:
        """Windows of all of them."""
        return sum(len(session.seats) for session in list(self._open.values()))

    @property
    def host_count(self) -> int:
        """Render hosts that run."""
        return sum(session.has_host for session in list(self._open.values()))

    async def watch(self) -> None:
        """Tell the sessions what happens in the database by none of their windows, until cancelled."""
        while True:
            await asyncio.sleep(LOOK_SECONDS)
            if not self._open:
                continue
            try:
                await self._look_at_prints()
                await self._look_at_documents()
            except (DatabaseError, InterfaceError):
                continue  # it is away for a moment
            except Exception:
                log.exception("what happens in the database cannot be looked at")

    async def _look_at_prints(self) -> None:
        printing = await in_database(NO_PROJECT, is_busy_here)
        if printing != self._printing:
            self._printing = printing
            for session in self._open.values():
                session.set_printing(printing)

    async def _look_at_documents(self) -> None:
        """Show what a restored backup, or a command, has made of open projects.

        A window's own change is in the database before its session hears of it: what differs must do so twice.
        """
        shown = {number: session.state for number, session in self._open.items()}
        stored = await in_database(NO_PROJECT, lambda: states_of(shown))
        changed, self._changed = self._changed, {}
        for number, state in shown.items():
            session, now = self._open.get(number), stored.get(number)
            if session is None or now == state or session.state != state:
                continue
            self._changed[number] = now
            if changed.get(number, state) != now:
                continue
            if now is None:
                session.gone()
                continue
            snapshot = await in_database(number, lambda number=number: Snapshot.opened(Project.objects.get(pk=number)))
            session.replaced(snapshot)

    async def join(self, person: Person, project_id: int, view: View) -> Session:
        """The session of a project, made if need be, with the view in it. Raises Missing when it is not theirs."""
        snapshot = await in_database(project_id, lambda: Snapshot.opened(project_for(person, project_id)))
        async with self._lock:
            session = self._open.get(project_id)
            if session is None:
                session = self._open[project_id] = Session(snapshot)
                session.set_printing(self._printing)
            session.join(view)
        return session

    async def leave(self, session: Session, view: View) -> None:
        """Remove a view; a project that nobody looks at for a while gives its host back."""
        session.leave(view)
        if len(session.seats):
            return
        if session.cover is not None:
            await session.cover.keep()
        await asyncio.sleep(LINGER_SECONDS)
        async with self._lock:
            if not len(session.seats) and self._open.get(session.project_id) is session:
                del self._open[session.project_id]
                await session.close()


sessions = Sessions()
