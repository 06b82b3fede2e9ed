"""Looks of the shelf: those of the core, and a person's own, kept here or brought in as files.

In: a person, a look. Out: entries of the shelf. Called by the HTTP interface and the intake. What is kept is a document
of a look alone, so that it is brought forward as documents are.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from lantern.scene.document import Scene
from lantern.scene.editing import files_in
from lantern.scene.look import Look
from lantern.scene.looks import NamedLook
from lantern.scene.reading import read_scene
from lantern.shelf.looks import LOOKS
from server.errors import Missing, Refused
from server.library.models import LookItem
from server.projects import storage
from server.projects.policy import Person

MOST_LOOKS = 500
"""Of one person."""


@dataclass(frozen=True)
class ShelvedLook:
    """A look as the shelf shows it."""

    key: str
    name: str
    built_in: bool
    look: Look


def shelf_of(person: Person) -> list[ShelvedLook]:
    """The person's own looks, then those of the core."""
    own = [_shelved(item) for item in LookItem.objects.filter(owner=person)]
    return own + [ShelvedLook(key, named.name, True, named.look) for key, named in LOOKS.items()]


def _shelved(item: LookItem) -> ShelvedLook:
    return ShelvedLook(f"own-{item.pk}", item.name, False, read_scene(item.content).look)


@dataclass(frozen=True)
class KeepLook:
    """Keep a look on the person's own shelf. Raises Refused when there are too many."""

    person: Person
    named: NamedLook

    def execute(self) -> ShelvedLook:
        if LookItem.objects.filter(owner=self.person).count() >= MOST_LOOKS:
            raise Refused(f"There are {MOST_LOOKS} looks of yours already: take one off the shelf first.")
        content = Scene(look=self.named.look).plain()
        return _shelved(LookItem.objects.create(owner=self.person, name=self.named.name, content=content))


@dataclass(frozen=True)
class AddLook:
    """Put a look that came as a file on its person's shelf; a table or a configuration is stored with it."""

    owner: AbstractBaseUser
    path: Path
    file_name: str
    look: dict[str, Any]

    def execute(self) -> LookItem:
        if files_in(self.look):
            storage.keep(self.path, self.file_name, self.owner)
        content = Scene(look=Look.model_validate(self.look)).plain()
        return LookItem.objects.create(owner=self.owner, name=Path(self.file_name).stem[:200], content=content)


@dataclass(frozen=True)
class TakeOffLook:
    """Take a look off the person's own shelf. Raises Missing."""

    person: Person
    key: str

    def execute(self) -> None:
        number = self.key.removeprefix("own-")
        gone = LookItem.objects.filter(owner=self.person, pk=number).delete()[0] if number.isdecimal() else 0
        if not gone:
            raise Missing(f"There is no look {self.key} of yours.")
