"""A showing as its visitors see it: what the page is told, live and in a file.

In: a showing, where its pictures are had from. Out: data for the page. Called by the HTTP interface and `exported`.
"""

from collections.abc import Callable
from datetime import datetime

from ninja import Schema

from server.showings.models import Showing, Slide
from server.showings.rights import Right, frames_of
from server.showings.visiting import said_of
from server.takes.models import Comment

Address = Callable[[int, int], str]
"""Of the picture of a slide at a place of its ring."""


class SeenComment(Schema):
    id: int
    author: str
    answers: int | None
    text: str
    pin: tuple[float, float] | None
    created: datetime


class SeenSlide(Schema):
    id: int
    edition: str
    shot: str
    conditions: str
    pictures: list[str]
    """Addresses: the shot itself, then once around the asset."""
    comments: list[SeenComment]


class SeenShowing(Schema):
    id: int
    name: str
    by: str
    ends: datetime
    rights: list[Right]
    slides: list[SeenSlide]
    """Those whose picture is made."""
    wanted: int
    """How many there will be."""
    may_lead: bool = False


def seen(showing: Showing, address: Address, *, may_lead: bool = False) -> SeenShowing:
    """What visitors see of a showing now."""
    slides = list(showing.slides.prefetch_related("pictures"))
    said = said_of(slides) if "comment" in showing.rights else {}
    frames = frames_of(showing.rights)
    shown = [_slide(slide, frames, address, said.get(slide.take_id or 0, [])) for slide in slides]
    return SeenShowing(
        id=showing.pk,
        name=showing.name,
        by=showing.maker.get_username(),
        ends=showing.ends,
        rights=showing.rights,
        slides=[slide for slide in shown if slide.pictures],
        wanted=len(slides),
        may_lead=may_lead,
    )


def comment_seen(comment: Comment) -> SeenComment:
    """What is said, as visitors see it."""
    return SeenComment(
        id=comment.pk,
        author=comment.visitor or (comment.author.get_username() if comment.author else ""),
        answers=comment.answers_id,
        text=comment.text,
        pin=comment.pin,
        created=comment.created,
    )


def _slide(slide: Slide, frames: int, address: Address, said: list[Comment]) -> SeenSlide:
    turns = [picture.turn for picture in slide.pictures.all()]
    # A ring is turned when it is whole: until then there is the shot itself.
    there = turns if len(turns) == frames else turns[:1]
    edition, shot, conditions = (*slide.names, "", "", "")[:3]
    return SeenSlide(
        id=slide.pk,
        edition=edition,
        shot=shot,
        conditions=conditions,
        pictures=[address(slide.pk, turn) for turn in there],
        comments=[comment_seen(each) for each in said],
    )
