"""Changes of the library."""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.db import transaction

from server.errors import Missing
from server.library.models import EnvironmentItem, ImageItem, ProfileItem
from server.projects import storage
from server.projects.models import StoredFile
from server.projects.policy import Person


@dataclass(frozen=True)
class AddEnvironment:
    """Add an HDR map to somebody's shelf, or to everybody's when `person` is None.

    `facts` are what reading it has found: width, height, problems, thumbnail (JPEG).
    """

    person: Person | None
    path: Path
    file_name: str
    name: str
    facts: Mapping[str, Any]

    def execute(self) -> EnvironmentItem:
        with transaction.atomic():
            reference = storage.keep(self.path, self.file_name, self.person)
            return EnvironmentItem.objects.create(
                owner=self.person,
                name=self.name[:200],
                file_name=self.file_name[:200],
                file=StoredFile.objects.get(sha256=reference.sha256),
                width=self.facts["width"],
                height=self.facts["height"],
                luminance=self.facts["luminance"],
                problems=self.facts["problems"],
                thumbnail=self.facts["thumbnail"],
            )


@dataclass(frozen=True)
class DeleteItem:
    """Take an item off the person's own shelf; projects that use it keep its file."""

    person: Person
    model: type[EnvironmentItem] | type[ProfileItem] | type[ImageItem]
    item_id: int

    def execute(self) -> None:
        found = self.model.objects.filter(pk=self.item_id, owner=self.person).first()
        if found is None:
            raise Missing(f"There is no item {self.item_id} of yours.")
        found.delete()


@dataclass(frozen=True)
class AddProfile:
    """Add an IES profile to somebody's library, or to everybody's when `person` is None.

    `facts` are what reading it has found: lumens, curve.
    """

    person: Person | None
    path: Path
    file_name: str
    name: str
    facts: Mapping[str, Any]

    def execute(self) -> ProfileItem:
        with transaction.atomic():
            reference = storage.keep(self.path, self.file_name, self.person)
            return ProfileItem.objects.create(
                owner=self.person,
                name=self.name[:200],
                file_name=self.file_name[:200],
                file=StoredFile.objects.get(sha256=reference.sha256),
                lumens=self.facts["lumens"],
                curve=self.facts["curve"],
            )


@dataclass(frozen=True)
class AddImage:
    """Add an image to somebody's library, or to everybody's when `person` is None.

    `facts` are what reading it has found: width, height, has_alpha, problems, thumbnail (PNG).
    """

    person: Person | None
    path: Path
    file_name: str
    name: str
    facts: Mapping[str, Any]
    is_ball: bool = False

    def execute(self) -> ImageItem:
        with transaction.atomic():
            reference = storage.keep(self.path, self.file_name, self.person)
            return ImageItem.objects.create(
                owner=self.person,
                name=self.name[:200],
                file_name=self.file_name[:200],
                file=StoredFile.objects.get(sha256=reference.sha256),
                is_ball=self.is_ball,
                **self.facts,
            )
