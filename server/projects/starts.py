"""Set-ups with which new projects begin: kept from a project, one of them the default, removed."""

from dataclasses import dataclass

from django.db import transaction
from django.db.models import QuerySet

from lantern.scene.editing import files_in
from lantern.scene.starts import setup_of
from server.errors import Missing
from server.projects import storage
from server.projects.keeping import checked_name
from server.projects.models import Start, StoredFile
from server.projects.policy import Person, project_for


def starts_of(person: Person) -> QuerySet[Start]:
    """The set-ups of a person."""
    return Start.objects.filter(owner=person)


def start_for(person: Person, number: int) -> Start:
    """One of them. Raises Missing."""
    found = starts_of(person).filter(pk=number).first()
    if found is None:
        raise Missing(f"There is no start {number} for you.")
    return found


@dataclass(frozen=True)
class KeepStart:
    """Keep the set-up of a project, without its asset, for new ones; one of the same name is replaced."""

    person: Person
    project_id: int
    name: str

    def execute(self) -> Start:
        project = project_for(self.person, self.project_id)
        scene = setup_of(project.document())
        storage.paths_for(scene)
        with transaction.atomic():
            for stored in StoredFile.objects.filter(sha256__in=[f.sha256 for f in files_in(scene.plain())]):
                stored.readers.add(self.person.pk)
            fields = {"scene": scene.plain(), "bounds": project.bounds}
            return Start.objects.update_or_create(owner=self.person, name=checked_name(self.name), defaults=fields)[0]


@dataclass(frozen=True)
class ChooseStart:
    """Make a set-up the one with which new projects begin, or no longer."""

    person: Person
    start_id: int
    is_default: bool

    def execute(self) -> Start:
        start = start_for(self.person, self.start_id)
        with transaction.atomic():
            starts_of(self.person).filter(is_default=True).update(is_default=False)
            start.is_default = self.is_default
            start.save(update_fields=("is_default",))
        return start


@dataclass(frozen=True)
class DeleteStart:
    """Remove a set-up; projects that began with it stay as they are."""

    person: Person
    start_id: int

    def execute(self) -> None:
        start_for(self.person, self.start_id).delete()
