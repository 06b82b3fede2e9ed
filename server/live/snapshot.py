"""A project as the live view needs it, read from the database in one of its threads.

In: a project that is opened, or what an action has changed. Out: `Snapshot`. Called by the consumer and by `sessions`.
"""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from lantern.scene.editing import files_in
from server.projects import storage
from server.projects.actions import Changes
from server.projects.models import Project
from server.protocol import host
from server.protocol.parts import Patch


@dataclass(frozen=True)
class Snapshot:
    """A project as it stands in the database, read outside the event loop."""

    project_id: int
    scene: dict[str, Any]
    revision: int
    updated: datetime
    can_undo: bool
    can_redo: bool
    changes: Patch = field(default_factory=list)
    """What differs from the revision before this one."""
    paths: host.Paths = field(default_factory=dict)
    """Where the files lie that it names, of a change those that the change names."""

    @classmethod
    def opened(cls, project: Project) -> "Snapshot":
        """Take one of a project that an earlier version may have saved: it is shown as of today's."""
        project.scene = project.document().plain()
        return cls.of(Changes(project, [], storage.known_paths(files_in(project.scene))))

    @classmethod
    def of(cls, made: Changes) -> "Snapshot":
        """Take one after an action; asks the database."""
        project = made.project
        return cls(
            project.pk, project.scene, project.revision, project.updated,
            project.can_undo, project.can_redo, made.patch, made.paths,
        )  # fmt: skip

    @property
    def state(self) -> tuple[int, datetime]:
        """Which document it is, as `Project.state`."""
        return self.revision, self.updated
