"""The session: who is signed in, signing in, signing out."""

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.utils import check_csrf

router = Router(tags=["session"])


class Credentials(Schema):
    username: str
    password: str


class Session(Schema):
    username: str | None = None
    csrf_token: str


def _session(request: HttpRequest) -> Session:
    user = request.user
    return Session(username=user.get_username() if user.is_authenticated else None, csrf_token=get_token(request))


@router.get("", response=Session, auth=None)
def current_session(request: HttpRequest) -> Session:
    """Who is signed in, and the token that changing requests must carry."""
    return _session(request)


@router.post("", response=Session, auth=None)
def sign_in(request: HttpRequest, credentials: Credentials) -> Session:
    """Start a session."""
    if check_csrf(request):
        raise HttpError(403, "This page is too old: reload it and sign in again.")
    user = authenticate(request, username=credentials.username, password=credentials.password)
    if user is None:
        raise HttpError(403, "That name and password do not belong together.")
    login(request, user)
    return _session(request)


@router.delete("", response=Session)
def sign_out(request: HttpRequest) -> Session:
    """End the session."""
    logout(request)
    return _session(request)
