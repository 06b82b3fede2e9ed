"""The open projects of this server process: who joins gets a session, the last who leaves ends it after a while.

In: people and their views. Out: sessions. Called by the consumer; told by the database whether a print is being made.
"""

import asyncio
import contextlib

from django.db import DatabaseError, InterfaceError

from server.live.database import in_database
from server.live.seats import View
from server.live.session import Session
from server.live.snapshot import Snapshot
from server.prints.actions import any_print_runs
from server.projects.policy import Person, project_for

LINGER_SECONDS = 20.0
PRINTS_SECONDS = 1.0
NO_PROJECT = 0
"""The lane in the database of what is about no project."""


class Sessions:
    """The open projects of this server process."""

    def __init__(self) -> None:
        self._open: dict[int, Session] = {}
        self._lock = asyncio.Lock()
        self._printing = False

    async def watch_prints(self) -> None:
        """Tell the sessions whether a print is being made, until cancelled."""
        while True:
            await asyncio.sleep(PRINTS_SECONDS)
            if not self._open:
                continue
            with contextlib.suppress(DatabaseError, InterfaceError):
                printing = await in_database(NO_PROJECT, any_print_runs)
                if printing != self._printing:
                    self._printing = printing
                    for session in self._open.values():
                        session.set_printing(printing)

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
        await session.cover.keep()
        await asyncio.sleep(LINGER_SECONDS)
        async with self._lock:
            if not len(session.seats) and self._open.get(session.project_id) is session:
                del self._open[session.project_id]
                await session.close()


sessions = Sessions()
