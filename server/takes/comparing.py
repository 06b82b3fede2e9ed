"""Two takes beside each other: what differs in words and in the picture, and how a take is had again.

In: a person, takes. Out: differences with the patches of the document, pictures of them. Called by the HTTP interface;
the window that asked applies a patch as any other edit, so that it can be undone.
"""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from PIL import Image

from lantern.picture import differing
from lantern.picture.encode import encode_png
from lantern.scene.comparing import AREAS, Area, differences, fitting, restored
from lantern.scene.document import Scene
from lantern.scene.making import Made
from lantern.scene.patching import Patch
from server.errors import Refused
from server.projects.policy import Person, project_for
from server.runtime.stores import local_path
from server.takes.actions import document_of, take_for
from server.takes.models import Take

MOST_SAID = 300
"""Differences that are told one by one."""


@dataclass(frozen=True)
class Told:
    """One difference; the patches are for the document of today."""

    area: Area
    said: str
    as_first: Patch
    as_second: Patch


@dataclass(frozen=True)
class Comparison:
    """What differs, as far as it is told."""

    differences: list[Told]
    more: int
    """How many differences there are beyond those."""


def compared(person: Person, first: int, second: int | None) -> Comparison:
    """What differs from a take to another one, or to the document of today. Raises Missing, and Refused."""
    one = take_for(person, first)
    now = one.project.document()
    other = now if second is None else _of_the_same(person, one, second)
    found = differences(document_of(one), other)
    told = [
        Told(each.area, each.said, fitting(each.to_first, now), fitting(each.to_second, now))
        for each in found[:MOST_SAID]
    ]
    return Comparison(told, len(found) - len(told))


def _of_the_same(person: Person, one: Take, second: int) -> Scene:
    other = take_for(person, second)
    if other.project_id != one.project_id:
        raise Refused("These takes are of different projects.")
    return document_of(other)


def to_restore(person: Person, number: int, areas: Collection[Area]) -> Made:
    """The patch that makes the document as it was at a take, in some areas. Raises Missing, and Refused."""
    take = take_for(person, number)
    patch = restored(project_for(person, take.project_id).document(), document_of(take), areas)
    if not patch:
        raise Refused("Everything is as it was then.")
    what = "" if set(areas) == set(AREAS) else f" ({', '.join(sorted(areas))})"
    return Made("", f"Restore the take of {take.created:%d %b %H:%M}{what}", patch)


def difference(person: Person, first: int, second: int, kind: differing.Kind) -> differing.Difference:
    """How the pictures of two takes differ; of two sizes the larger is made as the smaller. Raises Missing."""
    one, other = (_picture(take_for(person, number)) for number in (first, second))
    size = min(one.size, other.size)
    pictures = [
        np.asarray(each if each.size == size else each.resize(size, Image.Resampling.LANCZOS)) for each in (one, other)
    ]
    return differing.difference_of(pictures[0], pictures[1], kind)


def _picture(take: Take) -> Image.Image:
    return Image.open(picture_path(take)).convert("RGB")


def picture_path(take: Take) -> str:
    """Where the picture of a take lies on this machine."""
    return str(local_path(take.picture.file.storage, take.picture.file.name))


def png_of(found: differing.Difference) -> bytes:
    """The picture of a difference."""
    return encode_png(found.picture())
