"""Changes of the library."""

from dataclasses import dataclass
from pathlib import Path

from django.db import transaction

from lantern.light.environment import clean
from lantern.light.profiles import read_profile
from lantern.picture.encode import encode_jpeg
from lantern.picture.files import read_hdr
from lantern.picture.thumbnails import environment_thumbnail, profile_curve
from server.library.models import EnvironmentItem, ProfileItem
from server.projects import storage
from server.projects.models import StoredFile
from server.projects.policy import Person


@dataclass(frozen=True)
class AddEnvironment:
    """Add an HDR map to somebody's shelf, or to everybody's when `person` is None.

    Raises ImageError when the file cannot be used; repaired values are listed in the item's problems.
    """

    person: Person | None
    path: Path
    file_name: str
    name: str

    def execute(self) -> EnvironmentItem:
        pixels, repaired = clean(read_hdr(self.path, self.file_name))
        with transaction.atomic():
            reference = storage.keep(self.path, self.file_name)
            return EnvironmentItem.objects.create(
                owner=self.person,
                name=self.name[:200],
                file_name=self.file_name[:200],
                file=StoredFile.objects.get(sha256=reference.sha256),
                width=pixels.shape[1],
                height=pixels.shape[0],
                problems=repaired.problems(),
                thumbnail=encode_jpeg(environment_thumbnail(pixels)),
            )


@dataclass(frozen=True)
class AddProfile:
    """Add an IES profile to somebody's library, or to everybody's when `person` is None.

    Raises ProfileError when the file cannot be used.
    """

    person: Person | None
    path: Path
    file_name: str
    name: str

    def execute(self) -> ProfileItem:
        profile = read_profile(self.path.read_text(encoding="latin-1"), self.file_name)
        with transaction.atomic():
            reference = storage.keep(self.path, self.file_name)
            return ProfileItem.objects.create(
                owner=self.person,
                name=self.name[:200],
                file_name=self.file_name[:200],
                file=StoredFile.objects.get(sha256=reference.sha256),
                lumens=profile.lumens(),
                curve=profile_curve(profile.candela),
            )
