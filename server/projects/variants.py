"""What of a project has changed since its last variant, kept as another.

In: a person, a project, a group of its variants. Out: the patch. Called by the HTTP interface; the window that asked
applies it as any other edit. What the document was then is found by taking back its steps of undo.
"""

from lantern.scene.document import Scene
from lantern.scene.making import Made
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.variants import VariantError, kept
from server.errors import Refused
from server.projects.models import Project
from server.projects.policy import Person, project_for

_TOUCHED = "/variant_groups/"


def variant_to_keep(person: Person, project_id: int, group: str, name: str | None) -> Made:
    """The patch that keeps it. Raises Missing, and Refused where nothing has changed."""
    project = project_for(person, project_id)
    try:
        return kept(_at_the_last_variant(project), project.document(), group, name)
    except VariantError as error:
        raise Refused(str(error)) from error


def _at_the_last_variant(project: Project) -> Scene:
    """The document as it was when variants were last begun, kept or taken."""
    scene = project.scene
    for edit in project.edits.filter(number__lte=project.cursor).order_by("-number").iterator():
        if any(operation["path"].startswith(_TOUCHED) for operation in edit.patch):
            break
        scene, _ = apply_operations(scene, edit.inverse)
    return read_scene(scene)
