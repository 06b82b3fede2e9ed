"""A stored project of an earlier version of the document, brought to today's with all its steps of undo.

In: a project that is locked. Out: the same, its document and edits of today's version. Called by every action before
anything is laid on the document, so that all edits of a project are of the version of its document.
"""

import logging

from lantern.scene.document import SCHEMA_VERSION
from lantern.scene.history import migrated_history
from lantern.scene.reading import version_of
from server.projects.models import Edit, Project

log = logging.getLogger(__name__)


def bring_forward(project: Project) -> None:
    """Migrate document and edits; edits that cannot be understood any more, and those beyond them, are dropped.

    Raises SceneError when the document itself cannot be read.
    """
    version = version_of(project.scene)
    if version == SCHEMA_VERSION:
        return
    edits = {edit.number: edit for edit in project.edits.all()}
    steps = {number: (edit.patch, edit.inverse) for number, edit in edits.items()}
    history = migrated_history(project.scene, steps, project.cursor)
    for number, (patch, inverse) in history.steps.items():
        edits[number].patch, edits[number].inverse = patch, inverse
    Edit.objects.bulk_update([edits[n] for n in history.steps], ("patch", "inverse"))
    lost = project.edits.exclude(number__in=history.steps).delete()[0]
    project.scene = history.scene
    project.save(update_fields=("scene",))
    log.info(
        "project %s: document and %s edits brought from version %s to %s, %s edits dropped",
        project.pk, len(history.steps), version, SCHEMA_VERSION, lost,
    )  # fmt: skip
