"""Pictures of a document under several editions, shots and conditions: which there are, and the document of each.

In: a document, keys of editions, shots and conditions. Out: combinations, documents. Called by the server's showings
and the render host.
"""

import hashlib
import json
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product

from lantern.scene.conditions import under
from lantern.scene.document import Camera, Scene
from lantern.scene.editing import Document
from lantern.scene.layers import worn_with
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.shots import seen_from
from lantern.scene.variants import edition_taken

ASKED_OF = ("editions", "variant_groups", "exclusions", "shots", "conditions")
"""Sections of a document that decide whether there is a combination."""


STEEPEST = 85.0
"""Degrees: above it a camera that is raised would turn over."""
NEAREST_SHARE = 0.05
"""Of the distance to what a camera looks at: nothing is focused on nearer than that."""


UNSEEN = {
    *ASKED_OF, "light_order", "shot_order", "edition_order", "part_sets", "layout", "brand_colors", "proof",
}  # fmt: skip
"""Sections of a document that nothing of its print depends on."""


class OrderError(ValueError):
    """A picture cannot be had as it is asked for; the message says what is gone, or what does not go together."""


@dataclass(frozen=True)
class Combination:
    """One picture that is wanted; None is what the document has on."""

    edition: str | None = None
    shot: str | None = None
    conditions: str | None = None

    def names(self, scene: Scene) -> tuple[str, str, str]:
        """Of edition, shot and conditions, empty where there is nothing to tell. Raises KeyError."""
        return (
            "" if self.edition is None else scene.editions[self.edition].name,
            "" if self.shot is None else scene.shots[self.shot].name,
            "" if self.conditions is None else scene.conditions[self.conditions].name,
        )


def combinations(editions: Sequence[str], shots: Sequence[str], conditions: Sequence[str]) -> Iterator[Combination]:
    """Each edition in each shot under all conditions, in the order given, each once; of nothing what is on."""
    of: list[list[str | None]] = [[*dict.fromkeys(keys)] or [None] for keys in (editions, shots, conditions)]
    return (Combination(*one) for one in product(*of))


def document_of(scene: Scene, wanted: Combination) -> Scene:
    """The document that shows a combination.

    Conditions that are asked for win over those that a shot has of its own. Raises OrderError, and VariantError for
    variants that do not go together.
    """
    _check(scene, wanted)
    if wanted.edition is not None:
        scene = read_scene(apply_operations(scene.plain(), edition_taken(scene, wanted.edition).patch)[0])
    return _seen(scene, wanted)


def shown_under(document: Document, wanted: Combination) -> Scene:
    """As `document_of`, of a document both ways: what the combination does not touch is shared with it."""
    _check(document.scene, wanted)
    if wanted.edition is not None:
        patch = edition_taken(document.scene, wanted.edition).patch
        document = document.patched(patch)[0] if patch else document
    return _seen(document.scene, wanted)


def sized(scene: Scene, width: int, height: int) -> Scene:
    """A document whose frame has another size [px]."""
    return scene.model_copy(update={"print": scene.print.model_copy(update={"width": width, "height": height})})


def digest_of(scene: Scene) -> str:
    """SHA-256 of all of a document that its print depends on: equal for prints that would be equal."""
    told = {name: value for name, value in scene.plain().items() if name not in UNSEEN}
    worn = worn_with((part.material for part in scene.parts.values()), scene.materials)
    told["print"] = {name: value for name, value in told["print"].items() if name != "file_name"}
    told["materials"] = {key: value for key, value in told["materials"].items() if key in worn}
    return hashlib.sha256(json.dumps(told, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def _check(scene: Scene, wanted: Combination) -> None:
    for key, there, what in (
        (wanted.edition, scene.editions, "edition is"),
        (wanted.shot, scene.shots, "shot is"),
        (wanted.conditions, scene.conditions, "conditions are"),
    ):
        if key is not None and key not in there:
            raise OrderError(f"The {what} gone: choose again.")


def _seen(scene: Scene, wanted: Combination) -> Scene:
    if wanted.shot is not None:
        scene = seen_from(scene, scene.shots[wanted.shot])
    if wanted.conditions is not None:
        scene = under(scene, scene.conditions[wanted.conditions])
    return scene


def seen_around(camera: Camera, azimuth: float, raised: float = 0.0, closer: float = 1.0) -> Camera:
    """A camera elsewhere on a ball about its target: `azimuth` [degrees] to the right as it looks, on a level circle;
    `raised` [degrees] above where it was, at most STEEPEST above or below the level; `closer` times as near.

    What it is focused on keeps its place: a ring of such cameras has one depth of field.
    """
    angle = math.radians(azimuth)
    cos, sin = math.cos(angle), math.sin(angle)
    x, y, z = (p - t for p, t in zip(camera.position, camera.target, strict=True))
    x, z = x * cos + z * sin, z * cos - x * sin
    level = math.hypot(x, z)
    distance = math.hypot(level, y)
    if raised and level > 0.0:
        height = math.degrees(math.atan2(y, level)) + raised
        height = math.radians(min(max(height, -STEEPEST), STEEPEST))
        x, y, z = (x / level * math.cos(height) * distance, math.sin(height) * distance,
                   z / level * math.cos(height) * distance)  # fmt: skip
    tx, ty, tz = camera.target
    position = (tx + x / closer, ty + y / closer, tz + z / closer)
    focus = camera.focus_distance
    if closer != 1.0:
        focus = max(focus - (distance - distance / closer), NEAREST_SHARE * distance / closer)
    return camera.model_copy(update={"position": position, "focus_distance": focus, "keys": ()})
