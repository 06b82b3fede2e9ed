"""Showings over HTTP, for those who make them."""

from datetime import datetime
from typing import Literal

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from server.showings import exported
from server.showings.actions import (
    ChangeShowing,
    CreateShowing,
    PrepareAgain,
    RemoveShowing,
    WithdrawShowing,
    showing_for,
    showings_of,
)
from server.showings.models import Showing, Slide
from server.showings.rights import Right, frames_of
from server.showings.tokens import token_of

router = Router(tags=["showings"])


class ShowingEntry(Schema):
    id: int
    name: str
    ends: datetime
    withdrawn: datetime | None
    created: datetime
    rights: list[Right]
    has_password: bool
    token: str
    """Of its link, `/showing/#TOKEN`."""
    visitors: int
    pictures: int
    """Made so far."""
    wanted: int
    problems: list[str]
    """Why pictures could not be made."""

    @staticmethod
    def resolve_has_password(showing: Showing) -> bool:
        return bool(showing.password)

    @staticmethod
    def resolve_token(showing: Showing) -> str:
        return token_of(showing.nonce)

    @staticmethod
    def resolve_visitors(showing: Showing) -> int:
        counted = getattr(showing, "visitors", None)
        return showing.visits.count() if counted is None else counted

    @staticmethod
    def resolve_pictures(showing: Showing) -> int:
        return sum(len(slide.pictures.all()) for slide in showing.slides.all())

    @staticmethod
    def resolve_wanted(showing: Showing) -> int:
        return len(showing.slides.all()) * frames_of(showing.rights)

    @staticmethod
    def resolve_problems(showing: Showing) -> list[str]:
        return list(dict.fromkeys(s.error for s in showing.slides.all() if s.state == Slide.State.FAILED))


class NewShowing(Schema):
    name: str
    ends: datetime
    editions: list[str] = Field([], max_length=200)
    shots: list[str] = Field([], max_length=200)
    conditions: list[str] = Field([], max_length=200)
    rights: list[Right] = Field(["switch", "compare", "comment"])
    password: str = ""
    longer_side: Literal[960, 1280, 1920] = 1280
    samples: int = Field(32, ge=4, le=1024)


class ShowingChange(Schema):
    """What is to be different; what is not said stays."""

    name: str | None = None
    ends: datetime | None = None
    rights: list[Right] | None = None
    password: str | None = None


@router.get("projects/{project_id}/showings", response=list[ShowingEntry])
@paginate
def list_showings(request: HttpRequest, project_id: int) -> QuerySet[Showing]:
    """The showings of a project, newest first."""
    return showings_of(request.user, project_id)


@router.post("projects/{project_id}/showings", response=ShowingEntry)
def create_showing(request: HttpRequest, project_id: int, new: NewShowing) -> Showing:
    """Make a link to pictures of the project as it is now; they are prepared behind all that somebody waits for."""
    return CreateShowing(request.user, project_id, **new.dict()).execute()


@router.patch("showings/{showing_id}", response=ShowingEntry)
def change_showing(request: HttpRequest, showing_id: int, change: ShowingChange) -> Showing:
    """Change a showing. With another password all its pages close."""
    return ChangeShowing(request.user, showing_id, **change.dict()).execute()


@router.post("showings/{showing_id}/again", response=ShowingEntry)
def prepare_again(request: HttpRequest, showing_id: int) -> Showing:
    """Have the pictures made that have failed."""
    return PrepareAgain(request.user, showing_id).execute()


@router.post("showings/{showing_id}/withdraw", response=ShowingEntry)
def withdraw_showing(request: HttpRequest, showing_id: int) -> Showing:
    """Make its link good for nothing, at once."""
    return WithdrawShowing(request.user, showing_id).execute()


@router.delete("showings/{showing_id}", response={204: None})
def remove_showing(request: HttpRequest, showing_id: int) -> Status[None]:
    """Remove a showing; its takes stay in the project."""
    RemoveShowing(request.user, showing_id).execute()
    return Status(204, None)


@router.get("showings/{showing_id}/file")
def showing_file(request: HttpRequest, showing_id: int, form: Literal["page", "folder"] = "page") -> HttpResponse:
    """The showing without a server: one HTML file, or a zip with the pictures beside it."""
    showing = showing_for(request.user, showing_id)
    made, kind, suffix = (
        (exported.as_page(showing), "text/html", "html")
        if form == "page"
        else (exported.as_folder(showing), "application/zip", "zip")
    )
    headers = {"Content-Disposition": f'attachment; filename="showing-{showing_id}.{suffix}"'}
    return HttpResponse(made, content_type=kind, headers=headers)
