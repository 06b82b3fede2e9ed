"""Takes over HTTP. They are kept through the viewport's socket, where the picture is."""

import base64
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.utils import timezone
from ninja import Query, Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from lantern.picture.differing import TOPS, UNITS, Kind
from lantern.scene.comparing import AREAS, Area
from lantern.scene.making import Made
from server.projects.api import MadeEntry
from server.projects.policy import project_for
from server.takes import comparing
from server.takes.actions import ChangeTake, RemoveTake, SayOfTake, take_for, takes_of
from server.takes.marks import Mark
from server.takes.models import Comment, Take
from server.takes.sheet import cell_of, contact_sheet

router = Router(tags=["takes"])
FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
MOST_PRINTED = 600
"""Takes on one contact sheet."""


class CommentEntry(Schema):
    id: int
    author: str
    is_visitor: bool
    """Whether it was said in a showing, by somebody without an account."""
    pin: tuple[float, float] | None
    text: str
    answers: int | None = Field(None, alias="answers_id")
    created: datetime

    @staticmethod
    def resolve_author(comment: Comment) -> str:
        return comment.visitor or (comment.author.get_username() if comment.author else "")

    @staticmethod
    def resolve_is_visitor(comment: Comment) -> bool:
        return bool(comment.visitor)


class TakeEntry(Schema):
    id: int
    reason: str
    author: str
    created: datetime
    revision: int
    width: int
    height: int
    samples: int
    noise: float | None
    shown: str
    note: str
    stars: int
    labels: list[str]
    board: str
    marks: list[Mark]
    comments: list[CommentEntry]
    picture: str
    thumbnail: str
    film_bytes: int | None
    """What its film takes on disk, if that was kept."""

    @staticmethod
    def resolve_film_bytes(take: Take) -> int | None:
        return take.film.size if take.film else None

    @staticmethod
    def resolve_author(take: Take) -> str:
        return take.author.get_username() if take.author else ""

    @staticmethod
    def resolve_comments(take: Take) -> list[Comment]:
        return list(take.comments.all())

    @staticmethod
    def resolve_picture(take: Take) -> str:
        return reverse("api:take_picture", args=[take.pk])

    @staticmethod
    def resolve_thumbnail(take: Take) -> str:
        return reverse("api:take_thumbnail", args=[take.pk])


@router.get("projects/{project_id}/takes", response=list[TakeEntry])
@paginate
def list_takes(request: HttpRequest, project_id: int) -> QuerySet[Take]:
    """The takes of a project, newest first."""
    takes = project_for(request.user, project_id).takes.defer("scene", "thumbnail")
    return takes.select_related("author", "film").prefetch_related("comments__author")


@router.get("takes/{take_id}/picture")
def take_picture(request: HttpRequest, take_id: int) -> HttpResponse:
    """The picture of a take, PNG."""
    path = Path(comparing.picture_path(take_for(request.user, take_id)))
    return HttpResponse(path.read_bytes(), content_type="image/png", headers=FOREVER)


@router.get("takes/{take_id}/thumbnail")
def take_thumbnail(request: HttpRequest, take_id: int) -> HttpResponse:
    """The small picture of a take, JPEG."""
    small = bytes(take_for(request.user, take_id).thumbnail)
    return HttpResponse(small, content_type="image/jpeg", headers=FOREVER)


class TakeChange(Schema):
    """What is to be different; what is not said stays."""

    note: str | None = None
    stars: int | None = None
    labels: list[str] | None = None
    board: str | None = None
    marks: list[Mark] | None = None


@router.patch("takes/{take_id}", response=TakeEntry)
def change_take(request: HttpRequest, take_id: int, change: TakeChange) -> Take:
    """Change what is said of a take."""
    said = {name: getattr(change, name) for name in TakeChange.model_fields}
    return ChangeTake(request.user, take_id, **said).execute()


@router.delete("takes/{take_id}", response={204: None})
def remove_take(request: HttpRequest, take_id: int) -> Status[None]:
    """Remove a take."""
    RemoveTake(request.user, take_id).execute()
    return Status(204, None)


class NewComment(Schema):
    text: str
    answers: int | None = None


@router.post("takes/{take_id}/comments", response=CommentEntry)
def say_of_take(request: HttpRequest, take_id: int, said: NewComment) -> Comment:
    """Say something about a take, or answer."""
    return SayOfTake(request.user, take_id, said.text, said.answers).execute()


class DifferenceEntry(Schema):
    """One thing that differs, with the patches that make the document of today as in the first and in the second."""

    area: Area
    said: str
    as_first: list[dict[str, Any]]
    as_second: list[dict[str, Any]]


class ComparisonEntry(Schema):
    differences: list[DifferenceEntry]
    more: int


@router.get("takes/{take_id}/words", response=ComparisonEntry)
def words_between(request: HttpRequest, take_id: int, other: int | None = None) -> comparing.Comparison:
    """What differs from a take to another one, or to the project of today, in words."""
    return comparing.compared(request.user, take_id, other)


class PictureOfDifference(Schema):
    picture: str
    """Address of a PNG in the colours of the scale."""
    mean: float
    worst: float
    unit: str
    top: float
    ticks: list[tuple[float, str]]


@router.get("takes/{take_id}/difference", response=PictureOfDifference)
def difference_between(request: HttpRequest, take_id: int, other: int, kind: Kind) -> PictureOfDifference:
    """How the pictures of two takes differ."""
    found = comparing.difference(request.user, take_id, other, kind)
    picture = f"data:image/png;base64,{base64.b64encode(comparing.png_of(found)).decode()}"
    return PictureOfDifference(
        picture=picture, mean=found.mean, worst=found.worst, unit=UNITS[kind], top=TOPS[kind], ticks=found.ticks()
    )


class Restoring(Schema):
    areas: tuple[Area, ...] = tuple(AREAS)


@router.post("takes/{take_id}/restoring", response=MadeEntry)
def restoring(request: HttpRequest, take_id: int, wanted: Restoring) -> Made:
    """The patch that makes the project as it was at a take; the window applies it as an edit of its own."""
    return comparing.to_restore(request.user, take_id, wanted.areas)


@router.get("projects/{project_id}/sheet")
def sheet(
    request: HttpRequest, project_id: int, takes: Annotated[list[int], Query(max_length=MOST_PRINTED)]
) -> HttpResponse:
    """A contact sheet of takes in the order given, PDF."""
    wanted = takes_of(request.user, project_id, takes)
    project = project_for(request.user, project_id)
    made = contact_sheet(project.name, "takes", [cell_of(take) for take in wanted], timezone.localtime())
    headers = {"Content-Disposition": f'attachment; filename="takes-{project_id}.pdf"'}
    return HttpResponse(made, content_type="application/pdf", headers=headers)
