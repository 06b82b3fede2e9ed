"""The session: who is signed in, signing in and out, the password, and where else somebody is signed in."""

import logging
from datetime import datetime
from ipaddress import ip_address

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, password_validation, update_session_auth_hash
from django.core.exceptions import ValidationError
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.errors import HttpError
from ninja.utils import check_csrf

from server.accounts import sessions
from server.errors import Refused

security = logging.getLogger("server.security")
router = Router(tags=["session"])
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


class OpenSession(Schema):
    """One place where somebody is signed in."""

    name: str
    is_this: bool
    until: datetime


def _session(request: HttpRequest) -> Session:
    user = request.user
    return Session(username=user.get_username() if user.is_authenticated else None, csrf_token=get_token(request))


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
    if check_csrf(request):
        raise HttpError(403, "This page is too old: reload it and sign in again.")
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
