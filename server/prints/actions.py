"""Changes of the print queue."""

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from server.errors import Missing, Refused
from server.prints import tasks
from server.prints.models import Print
from server.projects.policy import Person, project_for, visible_projects


def print_for(person: Person, number: int) -> Print:
    """One print of a person's projects. Raises Missing."""
    found = Print.objects.filter(pk=number, project__in=visible_projects(person)).first()
    if found is None:
        raise Missing(f"There is no print {number} for you.")
    return found


@dataclass(frozen=True)
class QueuePrint:
    """Queue a final frame of the project as it is now, with the document's print settings."""

    person: Person
    project_id: int

    def execute(self) -> Print:
        project = project_for(self.person, self.project_id)
        if not project.document().parts:
            raise Refused("There is nothing to print: the project has no asset.")
        with transaction.atomic():
            created = Print.objects.create(project=project, author=self.person, scene=project.scene)
            tasks.print_frame.defer(print_id=created.pk)
        return created


@dataclass(frozen=True)
class CancelPrint:
    """Stop a print; a worker that is at it notices within a second."""

    person: Person
    print_id: int

    def execute(self) -> Print:
        found = print_for(self.person, self.print_id)
        changed = Print.objects.filter(pk=found.pk).exclude(state__in=Print.ENDED)
        if not changed.update(state=Print.State.CANCELED, ended=timezone.now(), seconds_left=None):
            raise Refused("This print has already ended.")
        found.refresh_from_db()
        return found
