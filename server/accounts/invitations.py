"""Inviting, withdrawing an invitation, and registering with one.

In: superusers who invite, tokens of links. Out: invitations and accounts. Called by the API. No mail is sent: the link
is shown to the inviter, once.
"""

import hashlib
import logging
import secrets
from dataclasses import dataclass
from datetime import timedelta

from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.forms import SignupForm
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone

from server.accounts.models import Invitation
from server.errors import Missing, Refused

security = logging.getLogger("server.security")
Person = AbstractBaseUser | AnonymousUser
GOOD_FOR = timedelta(days=7)
MOST_OPEN = 200
NOT_GOOD = "This invitation has been used, withdrawn, or is too old: ask for another one."


class InvitedAdapter(DefaultAccountAdapter):
    """Registration is open to nobody by the package's own pages: `Register` asks for an invitation."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return False


def invitations_of(person: Person) -> QuerySet[Invitation]:
    """Those that may still be used. Raises Missing for who may not invite."""
    if not may_invite(person):
        raise Missing("There are no invitations for you.")
    return Invitation.objects.filter(used=None, expires__gt=timezone.now())


def may_invite(person: Person) -> bool:
    """Whether somebody may invite others."""
    return bool(getattr(person, "is_superuser", False))


@dataclass(frozen=True)
class Invite:
    """Make an invitation; returns it with the token of its link, which is kept nowhere."""

    person: Person
    note: str = ""

    def execute(self) -> tuple[Invitation, str]:
        if invitations_of(self.person).count() >= MOST_OPEN:
            raise Refused(f"{MOST_OPEN} invitations are open: withdraw some first.")
        token = secrets.token_urlsafe(32)
        made = Invitation.objects.create(
            inviter=self.person,
            note=" ".join(self.note.replace("\x00", "").split())[:200],
            digest=_digest(token),
            expires=timezone.now() + GOOD_FOR,
        )
        security.info("%r invited somebody (invitation %s)", self.person.get_username(), made.pk)
        return made, token


@dataclass(frozen=True)
class Withdraw:
    """Make an invitation good for nothing."""

    person: Person
    number: int

    def execute(self) -> None:
        if not invitations_of(self.person).filter(pk=self.number).delete()[0]:
            raise Missing(f"There is no invitation {self.number} for you.")
        security.info("%r withdrew invitation %s", self.person.get_username(), self.number)


@dataclass(frozen=True)
class Register:
    """Make an account with an invitation, which is used up. Raises Refused with what is wrong."""

    request: HttpRequest
    token: str
    username: str
    password: str

    def execute(self) -> AbstractBaseUser:
        with transaction.atomic():
            open_ones = Invitation.objects.select_for_update().filter(used=None, expires__gt=timezone.now())
            invitation = open_ones.filter(digest=_digest(self.token)).first()
            if invitation is None:
                security.warning("registration refused: no good invitation")
                raise Refused(NOT_GOOD)
            account = self._made()
            invitation.account, invitation.used = account, timezone.now()
            invitation.save(update_fields=("account", "used"))
        security.info("%r registered with invitation %s", account.get_username(), invitation.pk)
        return account

    def _made(self) -> AbstractBaseUser:
        form = SignupForm({"username": self.username, "password1": self.password})
        if not form.is_valid():
            raise Refused(" ".join(message for messages in form.errors.values() for message in messages))
        account, _ = form.try_save(self.request)
        return account


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
