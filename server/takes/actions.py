"""Every change of takes: one class each, the only gate for permission.

In: a person, a take of a project of theirs. Out: rows. Called by the live socket (keeping) and the HTTP interface.
"""

import io
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.db import transaction
from PIL import Image

from lantern.scene.document import Scene
from lantern.scene.reading import read_scene
from lantern.scene.variants import edition_on, present
from server.errors import Missing, Refused
from server.projects import storage
from server.projects.models import StoredFile
from server.projects.policy import Person, held_project, project_for, visible_projects
from server.takes.marks import MOST_MARKS, Mark
from server.takes.models import Comment, Take

MOST_TAKES = 2000
"""Of one project."""
THUMBNAIL = 480
"""Pixels of the longer side of the picture on the sheet."""
LONGEST_NOTE, LONGEST_LABEL, MOST_LABELS, MOST_STARS = 4000, 40, 20, 5
LONGEST_COMMENT, MOST_COMMENTS = 2000, 500


@dataclass(frozen=True)
class Still:
    """The picture of a view as it is seen: PNG, how far it had come, and a file of its film, if that is kept too."""

    png: bytes
    samples: int
    noise: float | None
    film: Path | None = None


def take_for(person: Person, number: int) -> Take:
    """One take of a person's projects. Raises Missing."""
    found = (
        Take.objects.filter(pk=number, project__in=visible_projects(person)).select_related("picture", "film").first()
    )
    if found is None:
        raise Missing(f"There is no take {number} for you.")
    return found


def film_path(person: Person, project: int, number: int) -> str:
    """Where the film of a take of a project lies. Raises Missing for another's take, Refused for one without a film."""
    take = take_for(person, number)
    if take.project_id != project:
        raise Missing(f"There is no take {number} in this project.")
    if take.film is None:
        raise Refused("The film of this take was not kept: its picture is computed anew.")
    return storage.path_of(take.film)


def document_of(take: Take) -> Scene:
    """The document that made a take, as of today's version."""
    return read_scene(take.scene)


@dataclass(frozen=True)
class KeepTake:
    """Keep a picture with the document that it shows. Raises Missing, and Refused when there are too many."""

    person: Person
    project_id: int
    scene: dict[str, Any]
    revision: int
    still: Still
    request: str
    note: str = ""
    reason: str = Take.Reason.KEPT

    def execute(self) -> Take:
        image = Image.open(io.BytesIO(self.still.png)).convert("RGB")
        with tempfile.NamedTemporaryFile(suffix=".png") as file, transaction.atomic():
            project = held_project(self.person, self.project_id, "scene")
            if (kept := project.takes.filter(request=self.request).first()) is not None:
                return kept
            if project.takes.count() >= MOST_TAKES:
                raise Refused(f"There are {MOST_TAKES:,} takes already: remove some first.")
            file.write(self.still.png)
            file.flush()
            reference = storage.keep(Path(file.name), "take.png", self.person)
            film = None if self.still.film is None else storage.keep(self.still.film, "film.npz", self.person)
            return Take.objects.create(
                project=project,
                author=self.person,
                reason=self.reason,
                scene=self.scene,
                revision=self.revision,
                picture=StoredFile.objects.get(sha256=reference.sha256),
                film=None if film is None else StoredFile.objects.get(sha256=film.sha256),
                thumbnail=_shrunk(image),
                width=image.width,
                height=image.height,
                samples=self.still.samples,
                noise=self.still.noise,
                shown=_shown(read_scene(self.scene)),
                note=checked_text(self.note, LONGEST_NOTE, "note"),
                request=self.request,
            )


def _shrunk(image: Image.Image) -> bytes:
    small = image.copy()
    small.thumbnail((THUMBNAIL, THUMBNAIL), Image.Resampling.LANCZOS)
    target = io.BytesIO()
    small.save(target, "JPEG", quality=88)
    return target.getvalue()


def _shown(scene: Scene) -> str:
    """What is on, in words: the edition, or else the variants."""
    if on := edition_on(scene):
        return scene.editions[on].name[:200]
    groups = scene.variant_groups
    return ", ".join(groups[key].variants[one].name for key, one in present(scene).items())[:200]


def checked_text(text: str, longest: int, what: str) -> str:
    """What somebody has written, without what no database keeps. Raises Refused when it is too long."""
    shown = text.replace("\x00", "").strip()
    if len(shown) > longest:
        raise Refused(f"A {what} has at most {longest:,} characters, not {len(shown):,}.")
    return shown


@dataclass(frozen=True)
class ChangeTake:
    """Change what is said of a take; what is None stays. Raises Missing, and Refused for what cannot be."""

    person: Person
    take_id: int
    note: str | None = None
    stars: int | None = None
    labels: Sequence[str] | None = None
    board: str | None = None
    marks: Sequence[Mark] | None = None

    def execute(self) -> Take:
        take = take_for(self.person, self.take_id)
        if self.note is not None:
            take.note = checked_text(self.note, LONGEST_NOTE, "note")
        if self.stars is not None:
            if not 0 <= self.stars <= MOST_STARS:
                raise Refused(f"A take has no to {MOST_STARS} stars, not {self.stars}.")
            take.stars = self.stars
        if self.labels is not None:
            named = dict.fromkeys(checked_text(label, LONGEST_LABEL, "label") for label in self.labels)
            take.labels = [label for label in named if label]
            if len(take.labels) > MOST_LABELS:
                raise Refused(f"A take has at most {MOST_LABELS} labels, not {len(take.labels)}.")
        if self.board is not None:
            take.board = checked_text(self.board, 80, "board's name")
        if self.marks is not None:
            if len(self.marks) > MOST_MARKS:
                raise Refused(f"A take has at most {MOST_MARKS} marks, not {len(self.marks)}.")
            take.marks = [mark.model_dump() for mark in self.marks]
        # Only what was said now: somebody else, or the same hand a moment ago, may be saying the rest.
        said = [name for name in ("note", "stars", "labels", "board", "marks") if getattr(self, name) is not None]
        take.save(update_fields=said)
        return take


@dataclass(frozen=True)
class RemoveTake:
    """Remove a take; its picture goes when nothing names it any more. Raises Missing."""

    person: Person
    take_id: int

    def execute(self) -> None:
        take_for(self.person, self.take_id).delete()


@dataclass(frozen=True)
class SayOfTake:
    """Say something about a take, or answer what was said. Raises Missing, and Refused for what cannot be."""

    person: Person
    take_id: int
    text: str
    answers: int | None = None

    def execute(self) -> Comment:
        take = take_for(self.person, self.take_id)
        text = checked_text(self.text, LONGEST_COMMENT, "comment")
        if not text:
            raise Refused("Write something first.")
        if take.comments.count() >= MOST_COMMENTS:
            raise Refused(f"There are {MOST_COMMENTS} comments on this take already.")
        before = take.comments.filter(pk=self.answers).first() if self.answers is not None else None
        if self.answers is not None and before is None:
            raise Missing("What you answer is gone.")
        return Comment.objects.create(take=take, author=self.person, text=text, answers=before)


def takes_of(person: Person, project_id: int, numbers: Sequence[int]) -> list[Take]:
    """Takes of a project in the order asked for. Raises Missing when one is not there."""
    found = project_for(person, project_id).takes.select_related("picture").in_bulk(numbers)
    missing = [number for number in numbers if number not in found]
    if missing:
        raise Missing(f"There is no take {missing[0]} for you.")
    return [found[number] for number in numbers]
