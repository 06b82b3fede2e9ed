"""The session: who is signed in, signing in and out, the password, and where else somebody is signed in."""

import logging
from datetime import datetime
from ipaddress import ip_address

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, password_validation, update_session_auth_hash
from django.core.exceptions import ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.utils.cache import add_never_cache_headers
from ninja import Router, Schema, Status
from ninja.errors import HttpError
from ninja.pagination import paginate
from ninja.utils import check_csrf

from server.accounts import sessions
from server.accounts.invitations import Invite, Register, Withdraw, invitations_of, may_invite
from server.accounts.models import Invitation
from server.errors import Refused

security = logging.getLogger("server.security")
router = Router(tags=["session"])
invitations = Router(tags=["invitations"])
MUST_WAIT = "Too many wrong passwords for this name: wait five minutes, then try again."


class Credentials(Schema):
    username: str
    password: str


class NewPassword(Schema):
    old: str
    new: str


class Session(Schema):
    username: str | None = None
    csrf_token: str
    may_invite: bool = False


class OpenSession(Schema):
    """One place where somebody is signed in."""

    name: str
    is_this: bool
    until: datetime


def _session(request: HttpRequest) -> Session:
    user = request.user
    name = user.get_username() if user.is_authenticated else None
    return Session(username=name, csrf_token=get_token(request), may_invite=may_invite(user))


class NewAccount(Credentials):
    token: str


class NewInvitation(Schema):
    note: str = ""


class InvitationEntry(Schema):
    """An invitation that may still be used."""

    id: int
    note: str
    expires: datetime


class MadeInvitation(InvitationEntry):
    token: str
    """Of its link, `/#/invited/TOKEN`; it is shown this once."""


def _is_this_machine(request: HttpRequest) -> bool:
    """Whether a request comes from this machine: its password is in the documentation."""
    try:
        return not settings.BEHIND_TLS and ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False


@router.get("", response=Session, auth=None)
def current_session(request: HttpRequest) -> Session:
    """Who is signed in, and the token that changing requests must carry."""
    return _session(request)


@router.post("", response=Session, auth=None)
def sign_in(request: HttpRequest, credentials: Credentials) -> Session:
    """Start a session. Wrong passwords are counted and logged; after some of them the name has to wait."""
    _check_page(request)
    name = credentials.username[:150].replace("\x00", "")
    if name == settings.DEMO_ACCOUNT and not _is_this_machine(request):
        security.warning("sign-in as the demo account from elsewhere refused")
        raise HttpError(403, "The demo account is there on the machine itself alone.")
    user = authenticate(request, username=name, password=credentials.password)
    if user is None:
        is_locked = getattr(request, "axes_locked_out", False)
        security.warning("sign-in refused for %r%s", name, ", which has to wait" if is_locked else "")
        if is_locked:
            raise HttpError(429, MUST_WAIT)
        raise HttpError(403, "That name and password do not belong together.")
    login(request, user)
    security.info("%r signed in", name)
    return _session(request)


@router.post("invited", response=Session, auth=None)
def register(request: HttpRequest, new: NewAccount) -> Session:
    """Make an account with an invitation, and sign in with it."""
    _check_page(request)
    account = Register(request, new.token, new.username, new.password).execute()
    login(request, account, backend=settings.AUTHENTICATION_BACKENDS[-1])
    return _session(request)


def _check_page(request: HttpRequest) -> None:
    if check_csrf(request):
        raise HttpError(403, "This page is too old: reload it and try again.")


@router.delete("", response=Session)
def sign_out(request: HttpRequest) -> Session:
    """End the session, with every window that it has open."""
    security.info("%r signed out", request.user.get_username())
    logout(request)
    return _session(request)


@router.post("password", response=Session)
def change_password(request: HttpRequest, passwords: NewPassword) -> Session:
    """Change the password; sessions elsewhere end."""
    user = request.user
    if not user.check_password(passwords.old):
        security.warning("password of %r not changed: the old one was wrong", user.get_username())
        raise Refused("The old password is not right.")
    try:
        password_validation.validate_password(passwords.new, user)
    except ValidationError as error:
        raise Refused(" ".join(error.messages)) from error
    user.set_password(passwords.new)
    user.save()
    update_session_auth_hash(request, user)
    sessions.end_others(user, request.session.session_key)
    security.info("password of %r changed", user.get_username())
    return _session(request)


@router.get("all", response=list[OpenSession])
def open_sessions(request: HttpRequest) -> list[OpenSession]:
    """Where the person is signed in."""
    found = sessions.of(request.user)
    this = request.session.session_key
    return [OpenSession(name=sessions.public_name(key), is_this=key == this, until=until) for key, until in found]


@router.delete("all", response={204: None})
def end_other_sessions(request: HttpRequest) -> Status[None]:
    """Sign out everywhere else."""
    sessions.end_others(request.user, request.session.session_key)
    return Status(204, None)


@invitations.get("", response=list[InvitationEntry])
@paginate
def list_invitations(request: HttpRequest) -> QuerySet[Invitation]:
    """Invitations that may still be used, newest first."""
    return invitations_of(request.user)


@invitations.post("", response=MadeInvitation)
def invite(request: HttpRequest, response: HttpResponse, new: NewInvitation) -> MadeInvitation:
    """Invite somebody; superusers may. The answer is the only place where the token is."""
    add_never_cache_headers(response)
    made, token = Invite(request.user, new.note).execute()
    return MadeInvitation(id=made.pk, note=made.note, expires=made.expires, token=token)


@invitations.delete("{invitation_id}", response={204: None})
def withdraw_invitation(request: HttpRequest, invitation_id: int) -> Status[None]:
    """Make an invitation good for nothing."""
    Withdraw(request.user, invitation_id).execute()
    return Status(204, None)
