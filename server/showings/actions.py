"""Every change of showings by those who make them: one class each, the only gate for permission.

In: a person, a project of theirs, what is to be shown. Out: rows, tasks, an audience sent home. Called by the HTTP
interface.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.db.models import Count, QuerySet
from django.utils import timezone

from lantern.scene.orders import OrderError, combinations, document_of
from lantern.scene.variants import VariantError
from server.errors import Missing, Refused
from server.projects.policy import Person, held_project, project_for, visible_projects
from server.showings import audience, tasks
from server.showings.models import Showing, Slide
from server.showings.rights import MOST_PICTURES, Right, frames_of
from server.showings.tokens import digest_of, new_nonce, token_of

MOST_SHOWINGS = 50
"""Of one project."""
LONGEST_NAME, SHORTEST_PASSWORD, LONGEST_PASSWORD = 80, 6, 200
LONGEST = timedelta(days=366)


def showing_for(person: Person, number: int) -> Showing:
    """One showing of a person's projects, without its document. Raises Missing."""
    showings = Showing.objects.filter(project__in=visible_projects(person)).defer("scene")
    found = showings.filter(pk=number).first()
    if found is None:
        raise Missing(f"There is no showing {number} for you.")
    return found


def showings_of(person: Person, project_id: int) -> QuerySet[Showing]:
    """Those of a project, newest first, with the number of those who came. Raises Missing."""
    showings = project_for(person, project_id).showings.defer("scene")
    return showings.annotate(visitors=Count("visits")).prefetch_related("slides__pictures")


@dataclass(frozen=True)
class CreateShowing:
    """Make a link to pictures of the project as it is now, and have them prepared.

    Raises Missing, and Refused for what cannot be shown.
    """

    person: Person
    project_id: int
    name: str
    ends: datetime
    editions: Sequence[str] = ()
    shots: Sequence[str] = ()
    conditions: Sequence[str] = ()
    rights: Sequence[Right] = ()
    password: str = ""
    longer_side: int = 1280
    samples: int = 64

    def execute(self) -> Showing:
        rights = list(dict.fromkeys(self.rights))
        project = project_for(self.person, self.project_id)
        scene = project.document()
        if not scene.parts:
            raise Refused("There is nothing to show: the project has no asset.")
        wanted = list(combinations(self.editions, self.shots, self.conditions))
        count = len(wanted) * frames_of(rights)
        if count > MOST_PICTURES:
            raise Refused(f"This would be {count:,} pictures, and {MOST_PICTURES} are the most: choose fewer.")
        try:
            for one in wanted:
                document_of(scene, one)
        except (OrderError, VariantError) as error:
            raise Refused(str(error)) from error
        nonce = new_nonce()
        with transaction.atomic():
            held_project(self.person, project.pk, "scene")
            if project.showings.count() >= MOST_SHOWINGS:
                raise Refused(f"There are {MOST_SHOWINGS} showings already: remove some first.")
            showing = Showing.objects.create(
                project=project,
                maker=self.person,
                name=_name(self.name),
                scene=project.scene,
                revision=project.revision,
                nonce=nonce,
                digest=digest_of(token_of(nonce)),
                password=_hashed(self.password),
                ends=_end(self.ends),
                rights=rights,
                longer_side=self.longer_side,
                samples=self.samples,
            )
            Slide.objects.bulk_create(
                Slide(
                    showing=showing,
                    place=place,
                    edition=one.edition,
                    shot=one.shot,
                    conditions=one.conditions,
                    names=one.names(scene),
                )
                for place, one in enumerate(wanted)
            )
            tasks.prepare_showing.defer(showing_id=showing.pk)
        return showing


@dataclass(frozen=True)
class ChangeShowing:
    """Change a showing; what is None stays, an empty password asks for none. Raises Missing and Refused."""

    person: Person
    number: int
    name: str | None = None
    ends: datetime | None = None
    rights: Sequence[Right] | None = None
    password: str | None = None

    def execute(self) -> Showing:
        showing = showing_for(self.person, self.number)
        if self.name is not None:
            showing.name = _name(self.name)
        if self.ends is not None:
            showing.ends = _end(self.ends)
        if self.password is not None:
            showing.password = _hashed(self.password)
        with transaction.atomic():
            if self.rights is not None:
                showing.rights = list(dict.fromkeys(self.rights))
                count = showing.slides.count() * frames_of(showing.rights)
                if count > MOST_PICTURES:
                    raise Refused(f"To turn it takes {count:,} pictures, and {MOST_PICTURES} are the most.")
                tasks.prepare_showing.defer(showing_id=showing.pk)
            # Only what is changed now: the rest may be changing too.
            given = [name for name in ("name", "ends", "password", "rights") if getattr(self, name) is not None]
            showing.save(update_fields=given)
        if self.password is not None:
            audience.shut(showing.pk)  # whoever knows the new one comes again
        elif self.rights is not None:
            audience.shut(showing.pk, audience.ANEW)
        return showing


@dataclass(frozen=True)
class PrepareAgain:
    """Have the pictures made that have failed. Raises Missing."""

    person: Person
    number: int

    def execute(self) -> Showing:
        showing = showing_for(self.person, self.number)
        with transaction.atomic():
            showing.slides.filter(state=Slide.State.FAILED).update(state=Slide.State.WAITING, attempts=0, error="")
            tasks.prepare_showing.defer(showing_id=showing.pk)
        return showing


@dataclass(frozen=True)
class WithdrawShowing:
    """Make a link good for nothing, at once and for ever. Raises Missing."""

    person: Person
    number: int

    def execute(self) -> Showing:
        showing = showing_for(self.person, self.number)
        if showing.withdrawn is None:
            showing.withdrawn = timezone.now()
            showing.save(update_fields=("withdrawn",))
        audience.shut(showing.pk)
        return showing


@dataclass(frozen=True)
class RemoveShowing:
    """Remove a showing; its takes stay in the project. Raises Missing."""

    person: Person
    number: int

    def execute(self) -> None:
        showing_for(self.person, self.number).delete()


def _name(name: str) -> str:
    shown = " ".join(name.replace("\x00", "").split())
    if not 1 <= len(shown) <= LONGEST_NAME:
        raise Refused(f"The name of a showing has 1 to {LONGEST_NAME} characters, not {len(shown)}.")
    return shown


def _end(ends: datetime) -> datetime:
    if timezone.is_naive(ends):
        ends = timezone.make_aware(ends)
    if not timezone.now() < ends <= timezone.now() + LONGEST:
        raise Refused("A showing ends in the future, within a year: choose another day.")
    return ends


def _hashed(password: str) -> str:
    if not password:
        return ""
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise Refused(f"A password has {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} characters.")
    return make_password(password)
