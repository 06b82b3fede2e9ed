"""Which sockets are open in whose name, so that signing out, or being shut out, closes them.

In: consumers as they come and go, signals of sessions that end and of accounts that are switched off. Out: consumers
told to close, on their own event loop. Called by the consumer; the signals come from other threads.
"""

import asyncio
from typing import Any, Protocol

from django.contrib.auth import get_user_model
from django.contrib.auth.signals import user_logged_out
from django.db.models.signals import post_save
from django.dispatch import receiver

from server.accounts import sessions

SIGNED_OUT = 4401
"""Why a socket is closed: whoever opened it is signed in no more."""


class Door(Protocol):
    """An open socket."""

    async def close(self, code: int) -> None: ...


_open: dict[Door, tuple[str, int, asyncio.AbstractEventLoop]] = {}


def opened(door: Door, session: str, person: int) -> None:
    """Note a socket of a session and a person."""
    _open[door] = session, person, asyncio.get_running_loop()


def closed(door: Door) -> None:
    """Forget a socket."""
    _open.pop(door, None)


def _shut(session: str | None = None, person: int | None = None) -> None:
    for door, (its_session, its_person, loop) in list(_open.items()):
        if session == its_session or (person is not None and person == its_person):
            asyncio.run_coroutine_threadsafe(door.close(SIGNED_OUT), loop)


@receiver(sessions.ended)
def _session_ended(key: str, **_: Any) -> None:
    _shut(session=key)


@receiver(user_logged_out)
def _signed_out(request: Any, **_: Any) -> None:
    if request is not None and request.session.session_key:
        _shut(session=request.session.session_key)


@receiver(post_save, sender=get_user_model())
def _account_changed(instance: Any, **_: Any) -> None:
    if not instance.is_active:
        sessions.end_all(instance)
        _shut(person=instance.pk)
