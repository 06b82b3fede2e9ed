"""Where something was moved to by hand: turned, sized and mirrored about a pivot, then shifted."""

from collections.abc import Mapping
from typing import Literal

from pydantic import Field

from lantern.scene.fields import Vector, choice, place, quantity
from lantern.scene.model import Key, Model, Name


class Placed(Model):
    """What has a place of its own, in the space of the group that it belongs to, or of the scene."""

    name: Name
    group: Key | None = Field(None, title="Group")
    offset: Vector = place((0, 0, 0), "Moved by")
    turn_x: float = quantity(0.0, "Turn about X", "°", (-3600, 3600), (-180, 180), 1)
    turn_y: float = quantity(0.0, "Turn about Y", "°", (-3600, 3600), (-180, 180), 1)
    turn_z: float = quantity(0.0, "Turn about Z", "°", (-3600, 3600), (-180, 180), 1)
    size: float = quantity(1.0, "Size", "×", (0.001, 1000), (0.1, 10), 0.01, scale="logarithmic")
    mirror: Literal["none", "x", "y", "z"] = choice(
        "none", "Mirrored along", {"none": "Not", "x": "X", "y": "Y", "z": "Z"}
    )
    pivot: Vector = place((0, 0, 0), "Pivot")


class PartGroup(Placed):
    """Parts, and other groups, that are moved as one. One that is named but not there is as none."""

    visible: bool = choice(True, "Visible")


def ring_in(parents: Mapping[str, str | None]) -> list[str]:
    """Keys of groups that belong to themselves by way of one another; none when all is well."""
    for key in parents:
        way = [key]
        while (above := parents[way[-1]]) is not None and above in parents:
            if above in way:
                return [*way[way.index(above) :], above]
            way.append(above)
    return []
