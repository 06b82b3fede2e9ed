"""Showings over HTTP, for whoever has a link: no account, and nothing but that showing."""

from pathlib import Path
from typing import Annotated

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.utils import check_csrf
from pydantic import Field

from server.runtime.stores import local_path
from server.showings import visiting
from server.showings.models import Showing
from server.showings.seen import SeenComment, SeenShowing, comment_seen, seen
from server.showings.throttle import TooOften
from server.showings.visiting import PasswordNeeded

router = Router(tags=["visits"], auth=None)
FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
Share = Annotated[float, Field(ge=0, le=1)]


class Entry(Schema):
    token: str
    password: str = ""


class NewRemark(Schema):
    name: str
    text: str = ""
    pin: tuple[Share, Share] | None = None
    chosen: bool = False


def _check_page(request: HttpRequest) -> None:
    if check_csrf(request):
        raise HttpError(403, "This page is too old: reload it and try again.")


def _address(request: HttpRequest) -> str:
    """Where a request comes from; behind a proxy, what that one says last (RFC 7239 calls it by another name)."""
    passed_on = request.META.get("HTTP_X_FORWARDED_FOR", "") if settings.BEHIND_TLS else ""
    return passed_on.rpartition(",")[2].strip() or request.META.get("REMOTE_ADDR", "")


def _seen(request: HttpRequest, showing: Showing) -> SeenShowing:
    def address(slide: int, turn: int) -> str:
        return reverse("api:visited_picture", args=[showing.pk, slide, turn])

    return seen(showing, address, may_lead=visiting.may_lead(request.user, showing))


@router.post("", response=SeenShowing)
def enter(request: HttpRequest, entry: Entry) -> SeenShowing:
    """Open the showing of a link; 401 asks for its password. This browser may see it from now on."""
    _check_page(request)
    try:
        showing = visiting.enter(request.session, entry.token[:200], entry.password, _address(request))
    except PasswordNeeded as error:
        raise HttpError(401, str(error)) from error
    except TooOften as error:
        raise HttpError(429, str(error)) from error
    return _seen(request, showing)


@router.get("{showing_id}", response=SeenShowing)
def visited(request: HttpRequest, showing_id: int) -> SeenShowing:
    """A showing that this browser has opened, as it is now."""
    return _seen(request, visiting.opened(request.session, showing_id))


@router.get("{showing_id}/pictures/{slide_id}/{int:turn}")
def visited_picture(request: HttpRequest, showing_id: int, slide_id: int, turn: int) -> HttpResponse:
    """One of its pictures, JPEG."""
    stored = visiting.picture_of(request.session, showing_id, slide_id, turn).picture
    path = Path(local_path(stored.file.storage, stored.file.name))
    return HttpResponse(path.read_bytes(), content_type="image/jpeg", headers=FOREVER)


@router.post("{showing_id}/pictures/{slide_id}/remarks", response=SeenComment)
def remark(request: HttpRequest, showing_id: int, slide_id: int, said: NewRemark) -> SeenComment:
    """Say something of a picture, with a pin in it if wanted, or choose it."""
    _check_page(request)
    try:
        made = visiting.say(request.session, showing_id, slide_id, said.name, said.text, said.pin, said.chosen)
    except TooOften as error:
        raise HttpError(429, str(error)) from error
    return comment_seen(made)
