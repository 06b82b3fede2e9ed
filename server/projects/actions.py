"""Every change of a project: one class each, the only gate for permission, one transaction."""

import json
import logging
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from lantern.scene.document import Scene
from lantern.scene.editing import apply_patch, files_in, files_named, stored_size
from lantern.scene.patching import Patch, difference
from lantern.scene.reading import SceneError
from server.errors import Refused
from server.projects import newest, storage
from server.projects.history import bring_forward
from server.projects.models import Edit, Project
from server.projects.policy import Person, held_project
from server.projects.reports import NOTHING_ODD, Report, asset_digest, keep_report

log = logging.getLogger(__name__)
NOTABLE_PATCH = 4 << 10
"""Bytes of a patch from which the size of the document is looked at: what smaller ones add takes years."""
MOST_EDITS = 1000
"""Steps of undo that are kept; the oldest go first."""
REMEMBERED = timedelta(days=1)
"""How long a handled request is known: far longer than a browser goes on asking."""


@dataclass(frozen=True)
class Changes:
    """A project after an action: the patch from the revision before, and where the files lie that it names."""

    project: Project
    patch: Patch = field(default_factory=list)
    paths: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class CreateProject:
    """Make a project around a document whose files are stored."""

    person: Person
    name: str
    scene: Scene
    report: Report = NOTHING_ODD
    bounds: list[list[float]] | None = None

    def execute(self) -> Project:
        storage.paths_for(self.scene)
        with transaction.atomic():
            project = Project.objects.create(
                owner=self.person, name=self.name[:200], scene=self.scene.plain(), bounds=self.bounds
            )
            keep_report(project, asset_digest(project.scene), self.report)
        log.info("project %s created by %s", project.pk, self.person)
        return project


@dataclass(frozen=True)
class ApplyEdit:
    """Apply a JSON Patch as one step of undo; what was undone before it is dropped.

    `base` is the revision that the patch was made on. A patch on an older document is applied to the present one when
    it fits, and refused when what it changes is gone. `request` names the change, so that it is done once.
    """

    person: Person
    project_id: int
    patch: Patch
    label: str
    request: str = ""
    base: int | None = None

    def changes(self) -> Changes:
        """Do it, and say what is different."""
        if not self.patch:
            raise Refused("An edit has at least one operation.")
        return _once(self.person, self.project_id, self.request, self._change)

    def execute(self) -> Project:
        return self.changes().project

    def _change(self, project: Project) -> Changes:
        try:
            scene, inverse = apply_patch(project.scene, self.patch)
            if len(json.dumps(self.patch)) > NOTABLE_PATCH:
                stored_size(scene)
        except SceneError as error:
            if self.base is None or self.base >= project.revision:
                raise
            raise Refused(
                f"The project has changed since this edit was begun (revision {self.base}, now {project.revision}), "
                f"and it fits no longer: {error}. Look at the project as it is now and edit again."
            ) from error
        if scene == project.scene:
            return Changes(project)
        paths = self._paths(project, scene)
        project.edits.filter(number__gt=project.cursor).delete()
        Edit.objects.create(
            project=project,
            number=project.cursor + 1,
            patch=self.patch,
            inverse=inverse,
            label=self.label[:200] or "Edit",
            author=self.person,
        )
        project.edits.filter(number__lte=project.cursor + 1 - MOST_EDITS).delete()
        return _stored(project, scene, project.cursor + 1, paths)

    def _paths(self, project: Project, scene: dict[str, Any]) -> dict[str, str]:
        """Where the files lie that the edit names: its own of the person, or some that the project names already."""
        named = files_named(self.patch, scene)
        if named:
            own = {file.sha256 for file in files_in(project.scene)}
            storage.paths_of([file for file in named if file.sha256 not in own], self.person)
        return storage.paths_of(named)


@dataclass(frozen=True)
class Undo:
    """Take back the newest applied edit."""

    person: Person
    project_id: int
    request: str = ""

    def changes(self) -> Changes:
        """Do it, and say what is different."""
        return _once(self.person, self.project_id, self.request, self._change)

    def execute(self) -> Project:
        return self.changes().project

    def _change(self, project: Project) -> Changes:
        edit = project.edits.filter(number=project.cursor).first()
        if edit is None:
            raise Refused("There is nothing to undo.")
        return _laid_on(project, edit.inverse, project.cursor - 1)


@dataclass(frozen=True)
class Redo:
    """Apply the edit again that was undone last."""

    person: Person
    project_id: int
    request: str = ""

    def changes(self) -> Changes:
        """Do it, and say what is different."""
        return _once(self.person, self.project_id, self.request, self._change)

    def execute(self) -> Project:
        return self.changes().project

    def _change(self, project: Project) -> Changes:
        edit = project.edits.filter(number=project.cursor + 1).first()
        if edit is None:
            raise Refused("There is nothing to redo.")
        return _laid_on(project, edit.patch, project.cursor + 1)


def _once(person: Person, number: int, request: str, change: Callable[[Project], Changes]) -> Changes:
    """What `change` makes of a project, in one transaction; a request of this name that was handled changes nothing."""
    with transaction.atomic():
        project = held_project(person, number, "scene")
        if (scene := newest.recall(project.pk, project.state)) is not None:
            project.scene = scene
        if request:
            project.handled.filter(created__lt=timezone.now() - REMEMBERED).delete()
            if not project.handled.get_or_create(key=request)[1]:
                return Changes(project)
        bring_forward(project)
        return change(project)


def _laid_on(project: Project, patch: Patch, cursor: int) -> Changes:
    scene, _ = apply_patch(project.scene, patch)
    return _stored(project, scene, cursor, storage.paths_of(files_named(patch, scene)))


def _stored(project: Project, scene: dict[str, Any], cursor: int, paths: dict[str, str]) -> Changes:
    patch = difference(project.scene, scene)
    project.scene, project.cursor, project.revision = scene, cursor, project.revision + 1
    project.save(update_fields=("scene", "cursor", "revision", "updated"))
    state = project.state
    transaction.on_commit(lambda: newest.remember(project.pk, state, scene))
    return Changes(project, patch, paths)
