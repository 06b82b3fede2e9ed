"""Whether the samples of a film still show a document after an edit.

In: the document before and after. Out: yes or no. Called by the engine.
"""

from pydantic import BaseModel

from lantern.scene.document import Backdrop, Camera, Scene

SHOWN = (
    "asset", "parts", "part_groups", "materials", "decals", "environment", "sky", "lights", "haze", "backdrop",
    "ground", "camera", "shutter", "rendering",
)  # fmt: skip
"""Sections of the document that the film shows: a change there asks for new samples."""
_OF_THE_LOOK: dict[type, tuple[str, ...]] = {Camera: ("exposure_time", "iso"), Backdrop: ("graded",)}
"""Fields of what the film shows that are done to its picture, and to none of its rays."""


def _differs(before: object, after: object) -> bool:
    """Whether two sections of a document show otherwise: in more than names and what is done to the picture."""
    if before is after or before == after:
        return False
    if isinstance(before, Camera | Backdrop):
        same = {name: getattr(after, name) for name in _OF_THE_LOOK[type(before)]}
        return before.model_copy(update=same) != after
    if isinstance(before, dict) and isinstance(after, dict):
        return list(before) != list(after) or any(_differs(before[key], after[key]) for key in after)
    if isinstance(before, BaseModel) and isinstance(after, BaseModel) and hasattr(after, "name"):
        return before.model_copy(update={"name": after.name}) != after
    return True


def shows_otherwise(before: Scene, after: Scene) -> bool:
    """Whether the light of two documents differs, and not only what is done to its picture."""
    return any(_differs(getattr(before, name), getattr(after, name)) for name in SHOWN)
