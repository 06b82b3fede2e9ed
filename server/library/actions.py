"""Changes of the library."""

from dataclasses import dataclass
from pathlib import Path

from django.db import transaction

from lantern.light.environment import clean
from lantern.picture.encode import encode_jpeg
from lantern.picture.files import read_hdr
from lantern.picture.thumbnails import environment_thumbnail
from server.library.models import EnvironmentItem
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
