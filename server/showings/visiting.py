"""What somebody without an account may do: open a showing by its token, see its pictures, comment and choose.

In: tokens, passwords, sessions of browsers. Out: showings, comments at takes. Called by the HTTP interface and the
socket. A session that has opened a showing may see that one and nothing else.
"""

import hashlib
import logging
import secrets
from typing import Any

from django.contrib.auth.hashers import check_password
from django.utils import timezone

from server.errors import Missing, Refused
from server.projects.policy import Person, visible_projects
from server.showings import throttle
from server.showings.models import Showing, Slide, SlidePicture, Visit
from server.showings.rights import Right
from server.showings.tokens import digest_of
from server.takes.actions import LONGEST_COMMENT, MOST_COMMENTS, checked_text
from server.takes.models import Comment, Take

security = logging.getLogger("server.security")
OPENED, VISITOR = "showings", "visitor"
"""Keys of a session: what it has opened, and by which it is told apart."""
GUESSES, GUESS_SECONDS = 10, 300
"""Wrong tokens or passwords from one address, before it has to wait."""
GUESSES_OF_ALL = 100
"""Wrong passwords of one showing from all addresses."""
COMMENTS, COMMENT_SECONDS = 20, 300
LONGEST_NAME = 60
CHOSEN = "chosen"
"""The label of a take that a visitor has chosen."""
NOT_GOOD = "This link leads nowhere: it has ended or was withdrawn. Ask whoever sent it for another one."
Session = Any
"""Django's session of a browser."""


class PasswordNeeded(Refused):
    """The showing opens with a password alone."""


def enter(session: Session, token: str, password: str, address: str) -> Showing:
    """Open the showing of a link for a browser.

    Raises Missing for no link of today, PasswordNeeded, and TooOften for who has guessed too often.
    """
    throttle.check(f"token:{address}", GUESSES, GUESS_SECONDS)
    showing = _open_ones().filter(digest=digest_of(token)).first()
    if showing is None:
        throttle.count(f"token:{address}", GUESSES, GUESS_SECONDS)
        security.warning("a link to a showing leads nowhere")
        raise Missing(NOT_GOOD)
    if showing.password:
        _check_password(showing, password, address)
    opened = dict(session.get(OPENED, {}))
    opened[str(showing.pk)] = _mark(showing)
    session[OPENED] = opened
    _note_visit(session, showing)
    return showing


def _open_ones() -> Any:
    return Showing.objects.filter(withdrawn=None, ends__gt=timezone.now()).defer("scene").select_related("maker")


def _check_password(showing: Showing, password: str, address: str) -> None:
    if not password:
        raise PasswordNeeded("This showing opens with a password.")
    own, all_ = f"password:{showing.pk}:{address}", f"password:{showing.pk}"
    throttle.check(own, GUESSES, GUESS_SECONDS)
    throttle.check(all_, GUESSES_OF_ALL, GUESS_SECONDS)
    if not check_password(password[:500], showing.password):
        security.warning("wrong password for showing %s", showing.pk)
        throttle.count(own, GUESSES, GUESS_SECONDS)
        throttle.count(all_, GUESSES_OF_ALL, GUESS_SECONDS)
        raise PasswordNeeded("That is not the password.")


def _mark(showing: Showing) -> str:
    """What a session keeps of a showing that it has opened: another password closes it again."""
    return hashlib.sha256(f"{showing.nonce}{showing.password}".encode()).hexdigest()[:32]


def _note_visit(session: Session, showing: Showing) -> None:
    if VISITOR not in session:
        session[VISITOR] = secrets.token_urlsafe(16)
    Visit.objects.update_or_create(showing=showing, visitor=session[VISITOR])


def opened(session: Session, number: int) -> Showing:
    """A showing that a browser has opened and that is still open. Raises Missing."""
    mark = session.get(OPENED, {}).get(str(number))
    showing = _open_ones().filter(pk=number).first() if mark else None
    if showing is None or mark != _mark(showing):
        raise Missing(f"There is no showing {number} for you.")
    return showing


def may_lead(person: Person, showing: Showing) -> bool:
    """Whether somebody may show a showing to all who look at it: whose project it is."""
    return visible_projects(person).filter(pk=showing.project_id).exists()


def picture_of(session: Session, number: int, slide: int, turn: int) -> SlidePicture:
    """One picture of a showing that a browser has opened. Raises Missing."""
    showing = opened(session, number)
    pictures = SlidePicture.objects.filter(slide__showing=showing, slide_id=slide, turn=turn)
    found = pictures.select_related("picture").first()
    if found is None:
        raise Missing(f"There is no picture {slide} for you.")
    return found


def said_of(slides: list[Slide]) -> dict[int, list[Comment]]:
    """What visitors have said, with the answers to it, by takes; what the makers say to each other stays theirs."""
    takes = [slide.take_id for slide in slides if slide.take_id is not None]
    found: dict[int, list[Comment]] = {}
    threads = set()
    for comment in Comment.objects.filter(take_id__in=takes).select_related("author"):
        if comment.visitor or comment.answers_id in threads:
            threads.add(comment.pk)
            found.setdefault(comment.take_id, []).append(comment)
    return found


def say(
    session: Session, number: int, slide: int, name: str, text: str, pin: tuple[float, float] | None, chosen: bool
) -> Comment:
    """Say something of a picture, or choose it; it arrives at its take. Raises Missing, Refused and TooOften."""
    showing = opened(session, number)
    needed: Right = "comment"
    if needed not in showing.rights:
        raise Refused("This showing takes no comments.")
    found = showing.slides.filter(pk=slide).first()
    if found is None:
        raise Missing(f"There is no picture {slide} for you.")
    take = Take.objects.filter(pk=found.take_id).first()
    if take is None:
        raise Refused("This picture takes no comments any more.")
    name, text = checked_text(name, LONGEST_NAME, "name"), checked_text(text, LONGEST_COMMENT, "comment")
    if not name:
        raise Refused("Say who you are first.")
    if not text and not chosen:
        raise Refused("Write something first.")
    throttle.count(f"comment:{session.get(VISITOR)}", COMMENTS, COMMENT_SECONDS)
    if take.comments.count() >= MOST_COMMENTS:
        raise Refused(f"There are {MOST_COMMENTS} comments on this picture already.")
    if chosen and CHOSEN not in take.labels:
        take.labels = [*take.labels, CHOSEN]
        take.save(update_fields=("labels",))
    return Comment.objects.create(take=take, visitor=name, text=text or "Chosen.", pin=pin)
