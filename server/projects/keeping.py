"""What is done with a project as a whole: its name, copies of it, putting it away, removing it."""

import logging
from dataclasses import dataclass

from django.db import transaction

from lantern.scene.editing import files_in
from server.errors import Refused
from server.projects.models import Cover, Project, StoredFile
from server.projects.policy import Person, held_project, project_for
from server.projects.reports import asset_digest, keep_report, report_of

log = logging.getLogger(__name__)
LONGEST_NAME = 200


def checked_name(name: str) -> str:
    """A name without what no line shows. Raises Refused when nothing is left of it, or too much."""
    shown = " ".join(name.replace("\x00", "").split())
    if not 1 <= len(shown) <= LONGEST_NAME:
        raise Refused(f"A name has 1 to {LONGEST_NAME} characters, not {len(shown)}.")
    return shown


@dataclass(frozen=True)
class RenameProject:
    """Give a project another name."""

    person: Person
    project_id: int
    name: str

    def execute(self) -> Project:
        project = project_for(self.person, self.project_id)
        project.name = checked_name(self.name)
        project.save(update_fields=("name",))
        return project


@dataclass(frozen=True)
class DuplicateProject:
    """A copy of a project as it is now, without its history and its prints; it belongs to whoever made it."""

    person: Person
    project_id: int

    def execute(self) -> Project:
        source = project_for(self.person, self.project_id)
        with transaction.atomic():
            copy = Project.objects.create(
                owner=self.person,
                name=f"{source.name[: LONGEST_NAME - 5]} copy",
                scene=source.document().plain(),
                bounds=source.bounds,
            )
            keep_report(copy, asset_digest(copy.scene), report_of(source))
            digests = {file.sha256 for file in files_in(copy.scene)}
            for stored in StoredFile.objects.filter(sha256__in=digests, is_public=False):
                stored.readers.add(self.person.pk)
            if cover := Cover.objects.filter(project=source).first():
                Cover.objects.create(project=copy, picture=cover.picture)
        log.info("project %s copied from %s by %s", copy.pk, source.pk, self.person)
        return copy


@dataclass(frozen=True)
class ArchiveProject:
    """Put a project out of the way, or take it back."""

    person: Person
    project_id: int
    archived: bool

    def execute(self) -> Project:
        project = project_for(self.person, self.project_id)
        project.archived = self.archived
        project.save(update_fields=("archived",))
        return project


@dataclass(frozen=True)
class DeleteProject:
    """Remove a project with its edits and prints; its files go when nothing names them any more."""

    person: Person
    project_id: int

    def execute(self) -> None:
        with transaction.atomic():  # what somebody is adding to it waits, and finds it gone
            held_project(self.person, self.project_id).delete()
        log.info("project %s deleted by %s", self.project_id, self.person)
