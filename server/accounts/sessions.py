"""The sessions of a person, found among all that are stored."""

import hashlib
from collections.abc import Iterator
from datetime import datetime

from django.contrib.auth import SESSION_KEY
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.contrib.sessions.models import Session
from django.dispatch import Signal
from django.utils import timezone

ended = Signal()
"""Sent with the `key` of a session that is over: whatever is open in its name closes."""


def of(person: AbstractBaseUser | AnonymousUser) -> Iterator[tuple[str, datetime]]:
    """(key, when it ends if nothing happens) of each session of a person, newest last."""
    for session in Session.objects.filter(expire_date__gt=timezone.now()).order_by("expire_date"):
        if session.get_decoded().get(SESSION_KEY) == str(person.pk):
            yield session.session_key, session.expire_date


def public_name(key: str) -> str:
    """A name for a session that is no key to it."""
    return hashlib.sha256(key.encode()).hexdigest()[:8]


def end_all(person: AbstractBaseUser) -> None:
    """End every session of a person."""
    end_others(person, None)


def end_others(person: AbstractBaseUser | AnonymousUser, kept: str | None) -> None:
    """End every session of a person but one."""
    for key, _ in list(of(person)):
        if key != kept:
            Session.objects.filter(session_key=key).delete()
            ended.send(sender=None, key=key)
