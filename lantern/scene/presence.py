"""Which parts are there: those of a group that is out of sight are not, whatever they say themselves.

In: a document. Out: one in which every part says so itself. Called by whatever shows, measures or writes a document.
"""

from lantern.scene.document import Scene
from lantern.scene.grouping import above


def seen(scene: Scene) -> Scene:
    """The document with the parts of groups that are out of sight hidden; itself, where all groups are seen."""
    away = {key for key, group in scene.part_groups.items() if not group.visible}
    if not away:
        return scene
    hidden = {
        key: part.model_copy(update={"visible": False})
        for key, part in scene.parts.items()
        if part.visible and part.group is not None and not away.isdisjoint(above(scene, part))
    }
    return scene.model_copy(update={"parts": scene.parts | hidden}) if hidden else scene
