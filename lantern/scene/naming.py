"""Names of finished pictures, by a template.

In: a template, what a picture is of. Out: a name without a suffix. Called by prints and orders of the server, and by
the command line.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from typing import Protocol

from lantern.scene import conditions, shots
from lantern.scene.document import Scene
from lantern.scene.making import Made
from lantern.scene.orders import OrderError
from lantern.scene.variants import VariantError, edition_taken

TEMPLATE = "{place}-{edition}-{shot}-{light}-{width}x{height}"
FIELDS = ("place", "project", "edition", "shot", "light", "width", "height")
LONGEST = 150


class Named(Protocol):
    """What is kept under a name."""

    @property
    def name(self) -> str: ...


def names_on(scene: Scene) -> tuple[str, str, str]:
    """The names of the edition, the shot and the light that a document shows as they are kept; empty where it differs.

    Of several that are alike the first counts.
    """
    kept: tuple[tuple[Mapping[str, Named], Callable[[Scene, str], Made]], ...] = (
        (scene.editions, edition_taken),
        (scene.shots, shots.taken),
        (scene.conditions, conditions.taken),
    )
    edition, shot, light = (next((one.name for key, one in there.items() if _is_on(scene, key, taken)), "")
                            for there, taken in kept)  # fmt: skip
    return edition, shot, light


def _is_on(scene: Scene, key: str, taken: Callable[[Scene, str], Made]) -> bool:
    try:
        return not taken(scene, key).patch
    except VariantError:
        return False


def named(template: str, number: int, project: str, names: Sequence[str], width: int, height: int) -> str:
    """The name of a row's files: of letters, digits, dashes, points and lines below, as every system takes it.

    `names` are those of edition, shot and light. Raises OrderError for a field that there is not.
    """
    values = dict(zip(FIELDS, (f"{number + 1:03d}", project, *names, str(width), str(height)), strict=True))
    unknown = set(re.findall(r"{([^{}]*)}", template)) - values.keys()
    if unknown:
        told = ", ".join(f"{{{name}}}" for name in FIELDS)
        raise OrderError(f"There is no {{{min(unknown)}}} in a name; there are {told}.")
    text = re.sub(r"{([^{}]*)}", lambda found: values[found[1]], template)
    text = re.sub(r"[^\w.-]+", "-", text)
    return re.sub(r"-{2,}", "-", text).strip("-.")[:LONGEST] or f"{number + 1:03d}"
